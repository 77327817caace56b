import { SparseCholesky } from '../../maths/cholesky';
import { type Chart, matchArea } from './chart';
import { type Frames, framesOf, type Pattern, patternOf } from './frames';

/**
 * Least-squares conformal map (Lévy et al. 2002): keeps angles as well as the chart allows, with two rim vertices pinned. Its normal
 * equations are those of the conformal energy, Dirichlet’s less the area; solved by a sparse Cholesky factor.
 *
 * @returns 2 per vertex, scaled to the surface's area; null where the equations have no single solution
 */
export function lscm(
  chart: Chart,
  rim: readonly number[],
  frames: Frames = framesOf(chart),
  pattern: Pattern = patternOf(chart),
): Float64Array | null {
  const n = chart.points.length / 3;
  const [pinA, pinB] = farthest(chart, rim);
  if (pinA === pinB) return null;
  const p = chart.points;
  // Each row of a triangle: Σ Wj Uj / √(2A), complex. Its normal equations, 2 × 2 for each pair of vertices.
  const entries = pattern.row.length;
  const re = new Float64Array(entries);
  const im = new Float64Array(entries);
  const { flat, area } = frames;
  for (let t = 0; t < area.length; t++) {
    if (area[t] === 0) continue;
    const s = 1 / Math.sqrt(2 * area[t]);
    const [x1, x2, y2] = [flat[3 * t], flat[3 * t + 1], flat[3 * t + 2]];
    const w = [(x2 - x1) * s, y2 * s, -x2 * s, -y2 * s, x1 * s, 0];
    for (let k = 0; k < 3; k++) {
      const e = pattern.ofTriangle[6 * t + k];
      re[e] += w[2 * k] ** 2 + w[2 * k + 1] ** 2;
      const j = (k + 1) % 3;
      const f = pattern.ofTriangle[6 * t + 3 + k];
      // conj(Wk)·Wj for the pair as it is stored, lower vertex first.
      const real = w[2 * k] * w[2 * j] + w[2 * k + 1] * w[2 * j + 1];
      const imaginary = w[2 * k] * w[2 * j + 1] - w[2 * k + 1] * w[2 * j];
      re[f] += real;
      im[f] += chart.triangles[3 * t + k] < chart.triangles[3 * t + j] ? imaginary : -imaginary;
    }
  }
  const reach = Math.hypot(p[3 * pinA] - p[3 * pinB], p[3 * pinA + 1] - p[3 * pinB + 1], p[3 * pinA + 2] - p[3 * pinB + 2]) || 1;
  const fixed = (v: number) => v === pinA || v === pinB;
  // Rows 2v and 2v + 1 are x and y of vertex v; pinned ones are left with their diagonal.
  const row: number[] = [];
  const column: number[] = [];
  const value: number[] = [];
  const b = new Float64Array(2 * n);
  const largest = re.reduce((m, x, e) => (e < n ? Math.max(m, x) : m), 0) || 1;
  const put = (r: number, c: number, x: number) => {
    row.push(r);
    column.push(c);
    value.push(x);
  };
  for (let e = 0; e < entries; e++) {
    const [i, j] = [pattern.row[e], pattern.column[e]];
    if (i === j) {
      const d = fixed(i) ? 1 : re[e] + 1e-12 * largest;
      put(2 * i, 2 * i, d);
      put(2 * i + 1, 2 * i + 1, d);
    } else if (!fixed(i) && !fixed(j)) {
      put(2 * i, 2 * j, re[e]);
      put(2 * i + 1, 2 * j + 1, re[e]);
      put(2 * i, 2 * j + 1, -im[e]);
      put(2 * i + 1, 2 * j, im[e]);
    } else if (i === pinB && !fixed(j)) {
      b[2 * j] -= re[e] * reach;
      b[2 * j + 1] += im[e] * reach;
    } else if (j === pinB && !fixed(i)) {
      b[2 * i] -= re[e] * reach;
      b[2 * i + 1] -= im[e] * reach;
    }
  }
  b[2 * pinB] = reach;
  const order = new Int32Array(2 * n);
  for (let i = 0; i < n; i++) {
    order[2 * i] = 2 * pattern.order[i];
    order[2 * i + 1] = 2 * pattern.order[i] + 1;
  }
  const solver = new SparseCholesky(2 * n, row, column, order);
  if (!solver.factor(value)) return null;
  solver.solve(b);
  if (!b.every(Number.isFinite)) return null;
  return matchArea(chart, b);
}

/** Two rim vertices far apart: the farthest from the first, and the farthest from that. */
function farthest(chart: Chart, rim: readonly number[]): [number, number] {
  const p = chart.points;
  const d2 = (i: number, j: number) => (p[3 * i] - p[3 * j]) ** 2 + (p[3 * i + 1] - p[3 * j + 1]) ** 2 + (p[3 * i + 2] - p[3 * j + 2]) ** 2;
  const from = (a: number) => rim.reduce((best, v) => (d2(v, a) > d2(best, a) ? v : best), rim[0]);
  const b = from(rim[0]);
  const a = from(b);
  return [a, b];
}
