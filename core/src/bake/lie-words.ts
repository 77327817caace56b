/** How the two meshes of a pair lie to each other: found before any ray of the bake is sent. */
export interface PairLie {
  /** How far the low mesh lies inside the high one all over, mm; 0 where it doesn’t. */
  insideMm: number;
  /** Share of the low surface whose nearest high surface faces the other way. */
  againstShare: number;
  /** Diagonal of the high mesh’s box by that of the low one’s. */
  scale: number;
}

/** Where this share faces the other way one of the two is inside out. */
const INSIDE_OUT = 0.6;
/** Beyond these the two are not of one size. */
const SCALES = { least: 0.6, most: 1.7 };

/** Factors that a wrong unit makes: metres, centimetres and inches taken for millimetres, and back. */
const UNITS: readonly [number, string][] = [
  [1000, 'metres and millimetres'],
  [100, 'metres and centimetres'],
  [10, 'centimetres and millimetres'],
  [25.4, 'inches and millimetres'],
  [2.54, 'inches and centimetres'],
];

/** What is wrong with a pair, in one sentence, and what helps; null where nothing is. */
export function lieWords(name: string, lie: PairLie): { sentence: string; help: string } | null {
  const { scale, againstShare } = lie;
  if (scale > SCALES.most || scale < SCALES.least) {
    const factor = scale > 1 ? scale : 1 / scale;
    const unit = UNITS.find(([f]) => Math.abs(factor / f - 1) < 0.03);
    return {
      sentence: `The high mesh of “${name}” is ${factor >= 10 ? factor.toFixed(0) : factor.toFixed(1)} times as ${scale > 1 ? 'large' : 'small'} as the part.`,
      help: unit ? `${unit[1]} seem mixed up: bring it in again in the right unit.` : 'Pair the part with another high mesh.',
    };
  }
  if (againstShare > INSIDE_OUT)
    return {
      sentence: `“${name}” and its high mesh face opposite ways on ${(100 * againstShare).toFixed(0)} % of the surface.`,
      help: 'One of the two is inside out: turn its faces outward.',
    };
  return null;
}
