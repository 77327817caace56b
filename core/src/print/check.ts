import type { Artwork } from './print';

const record = (x: unknown): Record<string, unknown> | null =>
  typeof x === 'object' && x !== null && !Array.isArray(x) ? (x as Record<string, unknown>) : null;
const isNumber = (x: unknown, low: number, high: number): x is number => typeof x === 'number' && x >= low && x <= high;
const isColour = (x: unknown): boolean => Array.isArray(x) && x.length === 3 && x.every((c) => isNumber(c, 0, 1));
const isWords = (x: unknown, least: number, most: number): x is string => typeof x === 'string' && x.length >= least && x.length <= most;
/** A number within bounds, or a whole one; and what it is called. */
type Range = readonly [low: number, high: number, name: string, whole?: true];

const RANGES: Record<Exclude<Artwork['kind'], 'picture'>, Record<string, Range>> = {
  text: {
    capital: [0.2, 500, 'the height of capitals'],
    tracking: [-500, 5000, 'the space between letters'],
    leading: [0.5, 10, 'the distance of lines'],
    arc: [-5000, 5000, 'the radius of the arc'],
  },
  dial: {
    from: [-1e6, 1e6, 'the first value'],
    to: [-1e6, 1e6, 'the last value'],
    step: [1e-6, 1e6, 'the step between numerals'],
    parts: [1, 100, 'the parts between numerals', true],
    begins: [-360, 360, 'where the scale begins'],
    sweep: [-360, 360, 'how far round it goes'],
    diameter: [2, 5000, 'the diameter'],
    long: [0.05, 500, 'the long ticks'],
    short: [0.05, 500, 'the short ticks'],
    thick: [0.02, 100, 'the thickness of ticks'],
    numerals: [0.2, 500, 'the height of numerals'],
  },
  bars: {
    seed: [0, 1e9, 'the number of the bars', true],
    width: [1, 1000, 'the width of the bars'],
    height: [1, 1000, 'the height of the bars'],
  },
};
const WORDS = { text: 'text', dial: 'unit' } as const;
const MIMES = ['image/png', 'image/jpeg', 'image/webp', 'image/svg+xml'];

/** What is wrong with something that should be an artwork, as words; null where all is well. */
export function artworkFault(x: unknown): string | null {
  const a = record(x);
  if (!a) return 'an artwork';
  if (a.kind === 'picture') return pictureFault(a);
  if (a.kind !== 'text' && a.kind !== 'dial' && a.kind !== 'bars') return 'an artwork of a kind there is not';
  for (const [key, [low, high, name, whole]] of Object.entries(RANGES[a.kind])) {
    if (!isNumber(a[key], low, high) || (whole && !Number.isInteger(a[key]))) return name;
  }
  if (!isColour(a.colour)) return 'its colour';
  if (a.kind === 'text' && (!isWords(a.text, 1, 2000) || !['left', 'middle', 'right'].includes(String(a.align)))) return 'its text';
  if (a.kind === 'dial' && (!isWords(a.unit, 0, 40) || !((a.to as number) > (a.from as number)) || a.sweep === 0)) return 'its scale';
  const known = [
    'kind',
    'colour',
    ...Object.keys(RANGES[a.kind]),
    ...(a.kind === 'bars' ? [] : [WORDS[a.kind]]),
    ...(a.kind === 'text' ? ['align'] : []),
  ];
  return Object.keys(a).every((k) => known.includes(k)) ? null : 'something it has not';
}

function pictureFault(a: Record<string, unknown>): string | null {
  if (typeof a.blob !== 'string' || !/^[0-9a-f]{64}$/.test(a.blob)) return 'its file';
  if (!isWords(a.fileName, 1, 200)) return 'the name of its file';
  if (!MIMES.includes(String(a.mime))) return 'the kind of its file';
  for (const key of ['widthPx', 'heightPx']) if (!isNumber(a[key], 1, 1e6)) return 'its pixels';
  if (a.dpi !== undefined && !isNumber(a.dpi, 1, 100_000)) return 'its dots per inch';
  if (a.source !== undefined && !isWords(a.source, 0, 300)) return 'where it is from';
  if (a.cut !== undefined && a.cut !== 'white' && a.cut !== 'black') {
    const cut = record(a.cut);
    if (!cut || !isColour(cut.colour) || !isNumber(cut.reach, 0, 255)) return 'what is cut out of it';
  }
  const known = ['kind', 'blob', 'fileName', 'mime', 'widthPx', 'heightPx', 'dpi', 'cut', 'source'];
  return Object.keys(a).every((k) => known.includes(k)) ? null : 'something it has not';
}
