import { millimetres } from '../units/lengths';
import type { Judgement } from './judge';

/** What a judgement comes to: a verdict and the one change that helps most. */
export interface Verdict {
  level: 'ok' | 'near' | 'over';
  sentence: string;
  change: string | null;
  /** The settings that make this change, where they do, and what doing it is called. */
  cure?: { words: string; settings: Cure };
}

/** Settings of a bake that a verdict may change. */
export interface Cure {
  distances?: 'measured';
  directions?: 'averaged';
  bits?: 16;
  samples?: 2 | 4;
}

const MEASURED: Verdict['cure'] = { words: 'Search as far as measured and bake again', settings: { distances: 'measured' } };

/** 8-bit maps can't say better than this: (128, 128, 255) itself decodes to 0.32°. */
export const EIGHT_BIT_FLOOR = 0.32;

/** Limits of the verdict, degrees and shares: common practice, no source. */
export function verdictOf(
  j: Judgement,
  figures: {
    missedShare: number;
    backShare: number;
    bits: 8 | 16;
    samples: number;
    distances: 'measured' | 'uniform';
    directions?: 'averaged' | 'split';
    /** Places where distances were painted over. */
    dabs?: readonly unknown[];
    neededFront: number;
    neededRear: number;
  },
): Verdict {
  const n = (x: number, d = 1) => x.toFixed(d);
  if (figures.missedShare > 0.002 && figures.directions === 'split')
    return {
      level: 'over',
      sentence: `${n(100 * figures.missedShare)} % of the rays find nothing.`,
      change: 'Average the directions over the hard edges: split, they leave gaps there.',
      cure: { words: 'Average them and bake again', settings: { directions: 'averaged' } },
    };
  if (figures.missedShare > 0.002 && figures.distances === 'uniform')
    return {
      level: 'over',
      sentence: `${n(100 * figures.missedShare)} % of the rays find nothing.`,
      change: `Search ${millimetres(figures.neededFront)} outward and ${millimetres(figures.neededRear)} inward: the meshes are never further apart.`,
      cure: MEASURED,
    };
  if (figures.missedShare > 0.002 && figures.dabs?.length)
    return {
      level: 'over',
      sentence: `${n(100 * figures.missedShare)} % of the rays find nothing.`,
      change: 'Erase what was painted over the measured distances, or paint it farther.',
    };
  if (figures.missedShare > 0.002)
    return {
      level: 'over',
      sentence: `${n(100 * figures.missedShare)} % of the rays find nothing even at the measured distances.`,
      change: 'The high mesh has no surface there: check the pairs, or close the high mesh.',
    };
  if (figures.backShare > 0.005)
    return {
      level: 'over',
      sentence: `${n(100 * figures.backShare)} % of the rays meet the back of the high mesh.`,
      change:
        figures.distances === 'uniform'
          ? 'Use the measured distances: the search reaches through thin walls.'
          : 'Turn the high mesh outward, or pull the two meshes closer.',
      ...(figures.distances === 'uniform' && { cure: MEASURED }),
    };
  const level = j.mean > 6 || j.p95 > 30 ? 'over' : j.mean > 3 || j.p95 > 15 ? 'near' : 'ok';
  const sentence = `${n(j.mean)}° off on average, 19 of 20 texels under ${n(j.p95)}°.`;
  if (figures.bits === 8 && j.mean < 2 * EIGHT_BIT_FLOOR)
    return {
      level,
      sentence,
      change: 'Nothing but 16 bits would bring it closer: 8 bits alone cost 0.32°.',
      cure: { words: 'Bake again with 16 bits', settings: { bits: 16 } },
    };
  const worstPart = [...j.parts].sort((a, b) => b.mean * b.texels - a.mean * a.texels)[0];
  if (figures.samples < 4 && j.p95 > 4 * j.mean)
    return {
      level,
      sentence,
      change: `Most of it lies in thin details: ${figures.samples === 1 ? '2 × 2' : '4 × 4'} samples would even them out, most on ${worstPart?.name ?? 'the piece'}.`,
      cure: { words: 'Bake again with more samples', settings: { samples: figures.samples === 1 ? 2 : 4 } },
    };
  if (level === 'ok') return { level, sentence, change: null };
  return {
    level,
    sentence,
    change: `${worstPart?.name ?? 'The piece'} carries most of it: give it more texels (weight 1.5) or a larger texture.`,
  };
}
