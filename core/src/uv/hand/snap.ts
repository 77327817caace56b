import { type IslandPlace, shiftBetween } from './places';

type Point = readonly [number, number];

/** A box in the tile, v up. */
export interface TileBox {
  x0: number;
  y0: number;
  x1: number;
  y1: number;
}

/** The box round points: x, y each. */
export function boxOf(points: ArrayLike<number>, at: (p: Point) => Point = (p) => p): TileBox {
  const box = { x0: Infinity, y0: Infinity, x1: -Infinity, y1: -Infinity };
  for (let i = 0; i < points.length; i += 2) {
    const [x, y] = at([points[i], points[i + 1]]);
    box.x0 = Math.min(box.x0, x);
    box.x1 = Math.max(box.x1, x);
    box.y0 = Math.min(box.y0, y);
    box.y1 = Math.max(box.y1, y);
  }
  return box;
}

/** The box round two. */
export const roundBoth = (a: TileBox, b: TileBox): TileBox => ({
  x0: Math.min(a.x0, b.x0),
  y0: Math.min(a.y0, b.y0),
  x1: Math.max(a.x1, b.x1),
  y1: Math.max(a.y1, b.y1),
});

/** Ways to bring islands in line. */
export type Alignment = 'left' | 'right' | 'top' | 'bottom' | 'row' | 'column';
export const ALIGNMENTS: Record<Alignment, string> = {
  left: 'left sides in line',
  right: 'right sides in line',
  top: 'tops in line',
  bottom: 'bottoms in line',
  row: 'side by side',
  column: 'one above the other',
};

/**
 * How far each island has to go so that all are in line: with the outermost of them, or next to each other in the order they lie, as far
 * apart as is wanted, the first where it is. Shares of the tile; whole texels from where each lies, so that what was snapped stays so.
 *
 * @param gap empty texels between them
 * @param size texels along the tile
 */
export function alignedShifts(boxes: readonly TileBox[], how: Alignment, gap: number, size: number): [number, number][] {
  if (boxes.length === 0) return [];
  const whole = (v: number): number => Math.round(v * size) / size;
  const round = boxes.reduce(roundBoth);
  const out = boxes.map((b): [number, number] => {
    if (how === 'left') return [whole(round.x0 - b.x0), 0];
    if (how === 'right') return [whole(round.x1 - b.x1), 0];
    if (how === 'top') return [0, whole(round.y1 - b.y1)];
    if (how === 'bottom') return [0, whole(round.y0 - b.y0)];
    return [0, 0];
  });
  if (how !== 'row' && how !== 'column') return out;
  const [low, high] = how === 'row' ? (['x0', 'x1'] as const) : (['y0', 'y1'] as const);
  const order = [...boxes.keys()].sort((i, j) => boxes[i][low] + boxes[i][high] - boxes[j][low] - boxes[j][high] || i - j);
  let next = boxes[order[0]][low];
  for (const i of order) {
    // Never nearer than is wanted: up to the next whole texel.
    const by = Math.ceil((next - boxes[i][low]) * size - 1e-6) / size;
    out[i] = how === 'row' ? [by, 0] : [0, by];
    next = boxes[i][high] + by + gap / size;
  }
  return out;
}

/** A point of an island when it is brought from one place to another. */
export function brought(from: IslandPlace, to: IslandPlace): (p: Point) => Point {
  const by = shiftBetween(from, to);
  const [c, s] = [Math.cos(by.turn) * by.scale, Math.sin(by.turn) * by.scale];
  return ([x, y]) => {
    const [dx, dy] = [x - from.at[0], y - from.at[1]];
    return [to.at[0] + c * dx - s * dy, to.at[1] + s * dx + c * dy];
  };
}

/**
 * A shift to whole texels, and to where the island’s box stands as far as wanted from others’ and the tile’s edge, or in line with theirs.
 *
 * @param near how far off that may be, shares of the tile
 */
export function snapped(
  box: TileBox,
  x: number,
  y: number,
  others: readonly TileBox[],
  size: number,
  padding: number,
  near: number,
): Point {
  const texel = (v: number): number => Math.round(v * size) / size;
  const gap = padding / size;
  const along = ([lo, hi]: Point, by: number, lines: readonly { at: number; of: 'lo' | 'hi' }[]): number => {
    let [best, off] = [texel(by), near];
    for (const l of lines) {
      const d = l.at - (l.of === 'lo' ? lo : hi) - by;
      if (Math.abs(d) < off) [best, off] = [by + d, Math.abs(d)];
    }
    return best;
  };
  const linesOf = (lo: keyof TileBox, hi: keyof TileBox, beside: (b: TileBox) => boolean) => [
    { at: gap / 2, of: 'lo' as const },
    { at: 1 - gap / 2, of: 'hi' as const },
    ...others.filter(beside).flatMap((b) => [
      { at: b[lo], of: 'lo' as const },
      { at: b[hi], of: 'hi' as const },
      { at: b[hi] + gap, of: 'lo' as const },
      { at: b[lo] - gap, of: 'hi' as const },
    ]),
  ];
  const reach = 0.02 + gap;
  const meets = (a0: number, a1: number, b0: number, b1: number): boolean => a0 < b1 + reach && b0 < a1 + reach;
  const nx = along(
    [box.x0, box.x1],
    x,
    linesOf('x0', 'x1', (b) => meets(box.y0 + y, box.y1 + y, b.y0, b.y1)),
  );
  const ny = along(
    [box.y0, box.y1],
    y,
    linesOf('y0', 'y1', (b) => meets(box.x0 + nx, box.x1 + nx, b.x0, b.x1)),
  );
  return [nx, ny];
}

/** The middle of a box, which islands are turned and scaled about. */
export const middleOf = (b: TileBox): Point => [(b.x0 + b.x1) / 2, (b.y0 + b.y1) / 2];

/** Turns that are meant as quarters of one are: within 2°. Otherwise whole degrees, or steps of 15°. */
export function snappedTurn(turn: number, steps: boolean): number {
  const degrees = (turn * 180) / Math.PI;
  const quarter = 90 * Math.round(degrees / 90);
  const step = steps ? 15 : 1;
  return ((Math.abs(degrees - quarter) <= 2 ? quarter : step * Math.round(degrees / step)) * Math.PI) / 180;
}
