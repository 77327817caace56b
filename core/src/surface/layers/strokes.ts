/**
 * One stroke of a brush over a part. It lies on the part and not on its layout: where the part has patches its points are kept as shares of
 * those, so that they stay in their places when counts and sizes change; else, as on what came from a file, in mm of the part.
 */
export interface Stroke {
  part: string;
  /** Takes away what strokes before it left there. */
  erases: boolean;
  /** Of the brush, mm. */
  radius: number;
  /** {@link POINT} numbers a point: where it is, mm; which way the surface faces there; how much of the radius, 0 … 1. */
  points: number[];
  /** Three numbers a point: which of the patches it lies on, −1 for none, and where in it. */
  on?: { patches: string[]; spots: number[] };
  /** The number of the piece of the part that it stays on; every piece where there is none. */
  board?: number;
  /** Once more on the other side of the middle of the part. */
  mirror?: 'x' | 'y' | 'z';
}
/** Numbers of a point. */
export const POINT = 7;

/** So many strokes a mask may have, and points all of them together. */
export const MOST_STROKES = 500;
export const MOST_POINTS = 12_000;

const isShort = (x: unknown, longest: number): x is string => typeof x === 'string' && x.length > 0 && x.length <= longest;
const areNumbers = (x: unknown, each: number, low: number, high: number): x is number[] =>
  Array.isArray(x) && x.length % each === 0 && x.every((n) => typeof n === 'number' && n >= low && n <= high);

/** What is wrong with something that should be strokes, as words; null where all is well. */
export function strokesFault(x: unknown): string | null {
  if (!Array.isArray(x)) return 'strokes';
  if (x.length > MOST_STROKES) return `more than ${MOST_STROKES} strokes`;
  let points = 0;
  for (const s of x as (Partial<Stroke> | null)[]) {
    if (typeof s !== 'object' || s === null || !isShort(s.part, 64) || typeof s.erases !== 'boolean') return 'a stroke';
    if (typeof s.radius !== 'number' || !(s.radius >= 0.05 && s.radius <= 1000)) return 'the brush of a stroke, 0.05 to 1000 mm';
    if (!areNumbers(s.points, POINT, -1e5, 1e5) || s.points.length === 0) return 'the points of a stroke';
    const count = s.points.length / POINT;
    points += count;
    if (s.on !== undefined) {
      const { patches, spots } = (s.on ?? {}) as Partial<NonNullable<Stroke['on']>>;
      if (!Array.isArray(patches) || patches.length > count || !patches.every((p) => isShort(p, 400))) return 'the patches of a stroke';
      if (!areNumbers(spots, 3, -1.01, 1e5) || spots.length !== 3 * count) return 'where a stroke lies on its patches';
      for (let i = 0; i < spots.length; i += 3)
        if (!Number.isInteger(spots[i]) || spots[i] >= patches.length) return 'where a stroke lies on its patches';
    }
    if (s.board !== undefined && !(Number.isInteger(s.board) && s.board >= 0)) return 'the piece a stroke stays on';
    if (s.mirror !== undefined && !['x', 'y', 'z'].includes(s.mirror)) return 'the mirror of a stroke';
    if (Object.keys(s).some((k) => !['part', 'erases', 'radius', 'points', 'on', 'board', 'mirror'].includes(k))) return 'a stroke';
  }
  return points > MOST_POINTS ? `more than ${MOST_POINTS} points of strokes` : null;
}
