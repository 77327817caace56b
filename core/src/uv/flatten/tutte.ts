import { SparseCholesky } from '../../maths/cholesky';
import { type Chart, matchArea } from './chart';
import { type Pattern, patternOf } from './frames';

/**
 * Barycentric map (Tutte 1963): the rim goes round a circle by its lengths and every inner vertex stands at a positive-weighted mean of
 * its neighbours, so no triangle can fold and nothing overlaps. Weights fall with length and are the same both ways, so that one sparse
 * Cholesky factor solves both coordinates. Null where the equations can’t be solved.
 */
export function tutte(chart: Chart, rim: readonly number[], pattern: Pattern = patternOf(chart)): Float64Array | null {
  const n = chart.points.length / 3;
  const p = chart.points;
  const uv = new Float64Array(2 * n);
  const fixed = new Uint8Array(n);
  const gap = (a: number, b: number) => Math.hypot(p[3 * a] - p[3 * b], p[3 * a + 1] - p[3 * b + 1], p[3 * a + 2] - p[3 * b + 2]);
  const lengths = rim.map((v, i) => gap(v, rim[(i + 1) % rim.length]));
  const total = lengths.reduce((s, l) => s + l, 0) || 1;
  // No two rim vertices may meet, however short the edge between them.
  const least = (1e-4 * total) / rim.length;
  const whole = lengths.reduce((s, l) => s + Math.max(l, least), 0);
  let done = 0;
  for (const [i, v] of rim.entries()) {
    const angle = (2 * Math.PI * done) / whole;
    uv[2 * v] = Math.cos(angle);
    uv[2 * v + 1] = Math.sin(angle);
    fixed[v] = 1;
    done += Math.max(lengths[i], least);
  }
  const value = new Float64Array(pattern.row.length);
  const [bx, by] = [new Float64Array(n), new Float64Array(n)];
  const mean = total / rim.length;
  for (let e = n; e < pattern.row.length; e++) {
    const [i, j] = [pattern.row[e], pattern.column[e]];
    const w = mean / Math.max(gap(i, j), 1e-3 * mean);
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
  for (let v = 0; v < n; v++) {
    uv[2 * v] = bx[v];
    uv[2 * v + 1] = by[v];
  }
  return matchArea(chart, uv);
}
