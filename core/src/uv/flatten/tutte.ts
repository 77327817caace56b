import { SparseCholesky } from '../../maths/cholesky';
import { type Chart, matchArea } from './chart';
import { type Pattern, patternOf } from './frames';

/** Length of each side of a rim, from vertex i to the next, mm. */
export const rimLengths = ({ points: p }: Chart, rim: readonly number[]): number[] =>
  rim.map((v, i) => gap(p, v, rim[i + 1 < rim.length ? i + 1 : 0]));

const gap = (p: ArrayLike<number>, a: number, b: number): number =>
  Math.hypot(p[3 * a] - p[3 * b], p[3 * a + 1] - p[3 * b + 1], p[3 * a + 2] - p[3 * b + 2]);

/** The rim round a circle by its lengths, what is inside hung in between: no triangle can fold and nothing overlaps. Null where the equations can’t be solved. */
export function tutte(chart: Chart, rim: readonly number[], pattern: Pattern = patternOf(chart)): Float64Array | null {
  const uv = new Float64Array((2 * chart.points.length) / 3);
  const lengths = rimLengths(chart, rim);
  const total = lengths.reduce((s, l) => s + l, 0) || 1;
  // No two rim vertices may meet, however short the edge between them.
  const least = (1e-4 * total) / rim.length;
  const whole = lengths.reduce((s, l) => s + Math.max(l, least), 0);
  let done = 0;
  for (const [i, v] of rim.entries()) {
    const angle = (2 * Math.PI * done) / whole;
    uv[2 * v] = Math.cos(angle);
    uv[2 * v + 1] = Math.sin(angle);
    done += Math.max(lengths[i], least);
  }
  const inside = barycentric(chart, rim, uv, pattern);
  return inside && matchArea(chart, inside);
}

/**
 * Barycentric map (Tutte 1963): with the rim on a convex outline every inner vertex stands at a positive-weighted mean of its neighbours.
 * Weights fall with length and are the same both ways, so that one sparse Cholesky factor solves both coordinates. Null where the
 * equations can’t be solved.
 *
 * @param uv 2 per vertex, those of the rim in their places; not changed
 */
export function barycentric(chart: Chart, rim: readonly number[], uv: Float64Array, pattern: Pattern): Float64Array | null {
  const n = chart.points.length / 3;
  const p = chart.points;
  const fixed = new Uint8Array(n);
  for (const v of rim) fixed[v] = 1;
  const value = new Float64Array(pattern.row.length);
  const [bx, by] = [new Float64Array(n), new Float64Array(n)];
  const mean = (rimLengths(chart, rim).reduce((s, l) => s + l, 0) || 1) / rim.length;
  for (let e = n; e < pattern.row.length; e++) {
    const [i, j] = [pattern.row[e], pattern.column[e]];
    const w = mean / Math.max(gap(p, i, j), 1e-3 * mean);
    value[i] += w;
    value[j] += w;
    if (!fixed[i] && !fixed[j]) value[e] = -w;
    for (const [a, b] of [
      [i, j],
      [j, i],
    ])
      if (!fixed[a] && fixed[b]) {
        bx[a] += w * uv[2 * b];
        by[a] += w * uv[2 * b + 1];
      }
  }
  for (let v = 0; v < n; v++)
    if (fixed[v]) {
      value[v] = 1;
      bx[v] = uv[2 * v];
      by[v] = uv[2 * v + 1];
    }
  const solver = new SparseCholesky(n, pattern.row, pattern.column, pattern.order);
  if (!solver.factor(value)) return null;
  solver.solve(bx);
  solver.solve(by);
  const out = new Float64Array(2 * n);
  for (let v = 0; v < n; v++) {
    out[2 * v] = bx[v];
    out[2 * v + 1] = by[v];
  }
  return out;
}
