import type { Dimension } from './dimensions';

/** An everyday size, and where its figures come from. */
export interface EverydaySize {
  group: string;
  name: string;
  /** Part of a dimension's name → mm. */
  figures: Record<string, number>;
  source: string;
}

const MEMORY = 'from memory';
const TRADE = 'common practice, no source';

/** Paper of the A series: A0 is 841 × 1189 mm, each next one half of it, rounded down (ISO 216:2007). */
function paper(): EverydaySize[] {
  let [width, height] = [841, 1189];
  const out: EverydaySize[] = [];
  for (let n = 0; n <= 8; n++) {
    out.push({ group: 'Paper', name: `A${n}`, figures: { width, height }, source: 'ISO 216:2007' });
    [width, height] = [Math.floor(height / 2), width];
  }
  return out;
}

/** Wire by gauge number n: d = 0.127 mm · 92^((36 − n)/39) (ASTM B258). */
export const awgMm = (n: number): number => 0.127 * 92 ** ((36 - n) / 39);
const wire = (): EverydaySize[] =>
  [4, 6, 8, 10, 12, 14, 16, 18, 20, 22, 24].map((n) => ({
    group: 'Wire, American gauge',
    name: `No. ${n}`,
    figures: { diameter: Math.round(awgMm(n) * 1000) / 1000 },
    source: 'ASTM B258, by its formula',
  }));

/** Rings by size: the size is the inside circumference in mm, so the inside diameter is size / π (ISO 8653:2016). */
export const ringMm = (size: number): number => size / Math.PI;
const rings = (): EverydaySize[] =>
  Array.from({ length: 16 }, (_, i) => 41 + 2 * i).map((size) => ({
    group: 'Rings, inside',
    name: `size ${size}`,
    figures: { diameter: Math.round(ringMm(size) * 100) / 100 },
    source: 'ISO 8653:2016, by its definition',
  }));

const table = (group: string, source: string, rows: [name: string, figures: Record<string, number>][]): EverydaySize[] =>
  rows.map(([name, figures]) => ({ group, name, figures, source }));

/** Sizes to start from. Those from memory say so: measure the real thing before relying on them. */
export const EVERYDAY_SIZES: readonly EverydaySize[] = [
  ...paper(),
  ...table('Screws, coarse thread', `ISO 261 pitches and ISO 272 widths across flats, ${MEMORY}`, [
    ['M3', { diameter: 3, pitch: 0.5, flats: 5.5 }],
    ['M4', { diameter: 4, pitch: 0.7, flats: 7 }],
    ['M5', { diameter: 5, pitch: 0.8, flats: 8 }],
    ['M6', { diameter: 6, pitch: 1, flats: 10 }],
    ['M8', { diameter: 8, pitch: 1.25, flats: 13 }],
    ['M10', { diameter: 10, pitch: 1.5, flats: 16 }],
    ['M12', { diameter: 12, pitch: 1.75, flats: 18 }],
  ]),
  ...table('Steel pipe, outside', `EN 10255, ${MEMORY}`, [
    ['½ in', { diameter: 21.3, wall: 2.6 }],
    ['¾ in', { diameter: 26.9, wall: 2.6 }],
    ['1 in', { diameter: 33.7, wall: 3.2 }],
    ['1¼ in', { diameter: 42.4, wall: 3.2 }],
    ['1½ in', { diameter: 48.3, wall: 3.2 }],
    ['2 in', { diameter: 60.3, wall: 3.6 }],
  ]),
  ...table('Copper tube, outside', `EN 1057, ${MEMORY}`, [
    ['12 mm', { diameter: 12, wall: 1 }],
    ['15 mm', { diameter: 15, wall: 1 }],
    ['22 mm', { diameter: 22, wall: 1 }],
    ['28 mm', { diameter: 28, wall: 1 }],
  ]),
  ...table('Sheet steel, American gauge', MEMORY, [
    ['14', { thickness: 1.897 }],
    ['16', { thickness: 1.519 }],
    ['18', { thickness: 1.214 }],
    ['20', { thickness: 0.912 }],
    ['22', { thickness: 0.759 }],
    ['24', { thickness: 0.607 }],
  ]),
  ...wire(),
  ...rings(),
  ...table('Bottles', `${TRADE}, ${MEMORY}`, [
    ['wine, 750 ml', { diameter: 74, height: 300, wall: 3 }],
    ['beer, 330 ml', { diameter: 61, height: 230, wall: 3 }],
    ['beer, 500 ml', { diameter: 67, height: 260, wall: 3 }],
    ['spirits, 700 ml', { diameter: 79, height: 290, wall: 4 }],
    ['mineral water, 1 l', { diameter: 85, height: 290, wall: 3 }],
    ['medicine, 100 ml', { diameter: 47, height: 98, wall: 2 }],
  ]),
  ...table('Cups', `${TRADE}, ${MEMORY}`, [
    ['mug, 300 ml', { diameter: 82, height: 95, wall: 4 }],
    ['tumbler, 250 ml', { diameter: 70, height: 100, wall: 2 }],
    ['enamel mug, 350 ml', { diameter: 80, height: 80, wall: 0.8 }],
  ]),
  ...table('Furniture', `${TRADE}, ${MEMORY}`, [
    ['dining table', { height: 750, depth: 900, length: 1600 }],
    ['desk', { height: 720, depth: 800, length: 1600 }],
    ['chair', { seat: 450, width: 450, height: 900 }],
    ['stool', { seat: 450, diameter: 340 }],
    ['bar stool', { seat: 760, diameter: 340 }],
    ['shelf', { depth: 300, thickness: 18, pitch: 320 }],
    ['worktop', { height: 900, depth: 600, thickness: 38 }],
    ['door leaf', { width: 860, height: 1985, thickness: 40 }],
    ['single bed', { width: 900, length: 2000, height: 450 }],
    ['bench', { seat: 450, depth: 400, length: 1500 }],
    ['chest', { width: 900, height: 450, depth: 450 }],
  ]),
  ...table('Walls', `${TRADE}, ${MEMORY}`, [
    ['lamp glass', { wall: 2 }],
    ['thrown pot', { wall: 5 }],
    ['sheet brass', { wall: 0.8 }],
    ['tin plate', { wall: 0.28 }],
    ['cast iron', { wall: 5 }],
  ]),
];

/** The named dimensions a size brings: `a4_width`, `a4_height`. */
export function dimensionsOf(size: EverydaySize, newId: () => string): Dimension[] {
  const base = `${size.group.split(/[\s,]/)[0]}_${size.name}`
    .toLowerCase()
    .replace(/½/g, 'half')
    .replace(/¼/g, 'quarter')
    .replace(/¾/g, 'three_quarters')
    .replace(/[^a-z0-9]+/g, '_')
    .replace(/^_|_$/g, '');
  return Object.entries(size.figures).map(([what, mm]) => ({
    id: newId(),
    name: `${base}_${what}`,
    formula: String(mm),
    kind: 'length',
    source: size.source,
  }));
}
