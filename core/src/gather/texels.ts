import { MOST_SAMPLES } from './bands';

/** Places are this far aside, texels, so that none lies on an edge of two triangles and counts twice. */
const ASIDE = [1.3e-5, 0.71e-5];
/** Room for the places of a texel: the shares of its second and third corner, for each. */
export const placesRoom = (): Float64Array => new Float64Array(2 * MOST_SAMPLES * MOST_SAMPLES);

/** A triangle of a layout as it lies among texels: x to the right, y down. Null where it has no width. */
function among(uv: Float32Array, t: number, size: number): { p: number[]; d: number } | null {
  const o = 6 * t;
  const p = [0, 1, 2, 3, 4, 5].map((k) => (k % 2 === 0 ? uv[o + k] : 1 - uv[o + k]) * size);
  const [ax, ay, bx, by, cx, cy] = p;
  const d = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay);
  return Math.abs(d) < 1e-12 ? null : { p, d };
}

/**
 * All places of a triangle inside the rows `from` … `to`, texel by texel: n × n of them spread evenly over each.
 *
 * @param places filled for each texel, see {@link placesRoom} @param visit called with the texel and how many of its places lie inside
 */
export function eachTexel(
  uv: Float32Array,
  t: number,
  size: number,
  [from, to]: readonly [number, number],
  n: number,
  places: Float64Array,
  visit: (x: number, y: number, count: number) => void,
): void {
  const lies = among(uv, t, size);
  if (!lies) return;
  const {
    p: [ax, ay, bx, by, cx, cy],
    d,
  } = lies;
  const x0 = Math.max(0, Math.floor(Math.min(ax, bx, cx)));
  const x1 = Math.min(size - 1, Math.floor(Math.max(ax, bx, cx)));
  const y0 = Math.max(from, Math.floor(Math.min(ay, by, cy)));
  const y1 = Math.min(to - 1, Math.floor(Math.max(ay, by, cy)));
  for (let y = y0; y <= y1; y++)
    for (let x = x0; x <= x1; x++) {
      let count = 0;
      for (let j = 0; j < n; j++)
        for (let i = 0; i < n; i++) {
          const px = x + (i + 0.5) / n + ASIDE[0];
          const py = y + (j + 0.5) / n + ASIDE[1];
          const w1 = ((px - ax) * (cy - ay) - (cx - ax) * (py - ay)) / d;
          const w2 = ((bx - ax) * (py - ay) - (px - ax) * (by - ay)) / d;
          if (w1 < 0 || w2 < 0 || 1 - w1 - w2 < 0) continue;
          places[2 * count] = w1;
          places[2 * count + 1] = w2;
          count++;
        }
      if (count > 0) visit(x, y, count);
    }
}

/**
 * Texels that a triangle only grazes, with the place of it that is nearest to their middle: what stands there goes into them, so that reading
 * between texels at its rim mixes in nothing else.
 *
 * @param wanted whether a texel still wants one
 */
export function eachGrazed(
  uv: Float32Array,
  t: number,
  size: number,
  [from, to]: readonly [number, number],
  wanted: (x: number, y: number) => boolean,
  visit: (x: number, y: number, w1: number, w2: number) => void,
): void {
  const lies = among(uv, t, size);
  if (!lies) return;
  const { p, d } = lies;
  const [ax, ay, bx, by, cx, cy] = p;
  const x0 = Math.max(0, Math.floor(Math.min(ax, bx, cx) - 1));
  const x1 = Math.min(size - 1, Math.floor(Math.max(ax, bx, cx) + 1));
  const y0 = Math.max(from, Math.floor(Math.min(ay, by, cy) - 1));
  const y1 = Math.min(to - 1, Math.floor(Math.max(ay, by, cy) + 1));
  for (let y = y0; y <= y1; y++)
    for (let x = x0; x <= x1; x++) {
      if (!wanted(x, y)) continue;
      const q = nearestOn(p, x + 0.5, y + 0.5);
      if (q.off > 1.5) continue;
      visit(x, y, ((q.x - ax) * (cy - ay) - (cx - ax) * (q.y - ay)) / d, ((bx - ax) * (q.y - ay) - (q.x - ax) * (by - ay)) / d);
    }
}

/** The nearest place of a triangle to another, and how far off it is. @param p its corners, 6 numbers */
function nearestOn(p: readonly number[], x: number, y: number): { x: number; y: number; off: number } {
  let best = { x, y, off: Infinity };
  let [plus, minus] = [true, true];
  for (let k = 0; k < 3; k++) {
    const [ax, ay] = [p[2 * k], p[2 * k + 1]];
    const [ex, ey] = [p[(2 * k + 2) % 6] - ax, p[(2 * k + 3) % 6] - ay];
    const side = ex * (y - ay) - ey * (x - ax);
    if (side < 0) plus = false;
    if (side > 0) minus = false;
    const s = Math.min(1, Math.max(0, ((x - ax) * ex + (y - ay) * ey) / (ex * ex + ey * ey || 1)));
    const [qx, qy] = [ax + s * ex, ay + s * ey];
    const off = Math.hypot(qx - x, qy - y);
    if (off < best.off) best = { x: qx, y: qy, off };
  }
  return plus || minus ? { x, y, off: 0 } : best;
}

/** The n-th of places spread evenly over a triangle (Roberts’ R2 sequence, folded), by the shares of its corners. */
export function spreadAt(n: number): [number, number, number] {
  let u = (0.5 + n * 0.7548776662466927) % 1;
  let v = (0.5 + n * 0.5698402909980532) % 1;
  if (u + v > 1) [u, v] = [1 - u, 1 - v];
  return [1 - u - v, u, v];
}
