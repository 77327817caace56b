import { SparseCholesky } from '../../maths/cholesky';
import type { Chart } from './chart';
import { type Frames, framesOf, type Pattern, patternOf } from './frames';

/** When a layout is good enough. */
export interface Effort {
  /** Most steps. */
  steps: number;
  /** A step that wins less than this share of the energy is the last. */
  least: number;
}

/**
 * Lowers the symmetric Dirichlet energy of a layout, σ₁² + σ₂² + σ₁⁻² + σ₂⁻² over the surface (Smith & Schaefer 2015), by Newton steps
 * whose Hessian is made positive triangle by triangle from its known eigenvectors (Smith, de Goes & Kim 2019). No step turns a triangle
 * over: the energy is infinite there, and each stops before the first would (the root of its area along the step).
 *
 * @param uv a layout without folds, 2 per vertex; not changed
 * @returns the layout, and its mean energy over that of an isometry (1: nothing is stretched) before and after
 */
export function relax(
  chart: Chart,
  uv: Float64Array,
  effort: Effort = { steps: 12, least: 1e-4 },
  frames: Frames = framesOf(chart),
  pattern: Pattern = patternOf(chart),
): { uv: Float64Array; before: number; after: number } {
  const { triangles } = chart;
  const n = chart.points.length / 3;
  const { flat, area } = frames;
  const whole = area.reduce((s, a) => s + a, 0) || 1;
  let x = uv.slice();
  let energy = energyOf(chart, x, frames) / whole;
  const before = energy / 4;
  if (!Number.isFinite(energy)) return { uv: x, before, after: before };
  // Entries of the Hessian, 2 × 2 for each pair of vertices, and the order by pairs.
  const pairs = pattern.row.length;
  const row = new Int32Array(4 * pairs - n);
  const column = new Int32Array(4 * pairs - n);
  const first = new Int32Array(pairs);
  let at = 0;
  for (let e = 0; e < pairs; e++) {
    const [i, j] = [2 * pattern.row[e], 2 * pattern.column[e]];
    first[e] = at;
    row.set([i, i + 1, i], at);
    column.set(i === j ? [i, i + 1, i + 1] : [j, j + 1, j + 1], at);
    at += 3;
    if (i === j) continue;
    row[at] = i + 1;
    column[at++] = j;
  }
  const order = new Int32Array(2 * n);
  for (let i = 0; i < n; i++) {
    order[2 * i] = 2 * pattern.order[i];
    order[2 * i + 1] = 2 * pattern.order[i] + 1;
  }
  const solver = new SparseCholesky(2 * n, row, column, order);
  const value = new Float64Array(row.length);
  const gradient = new Float64Array(2 * n);
  const own = new Float64Array(36);
  for (let step = 0; step < effort.steps; step++) {
    value.fill(0);
    gradient.fill(0);
    for (let t = 0; t < area.length; t++) {
      if (area[t] === 0) continue;
      hessian(triangles, x, flat, t, area[t] / whole, gradient, own);
      for (let k = 0; k < 3; k++) {
        const e = first[pattern.ofTriangle[6 * t + k]];
        value[e] += own[14 * k];
        value[e + 1] += own[14 * k + 7];
        value[e + 2] += own[14 * k + 1];
        const j = (k + 1) % 3;
        const f = first[pattern.ofTriangle[6 * t + 3 + k]];
        const [low, high] = triangles[3 * t + k] < triangles[3 * t + j] ? [k, j] : [j, k];
        value[f] += own[12 * low + 2 * high];
        value[f + 1] += own[12 * low + 6 + 2 * high + 1];
        value[f + 2] += own[12 * low + 2 * high + 1];
        value[f + 3] += own[12 * low + 6 + 2 * high];
      }
    }
    let trace = 0;
    for (let v = 0; v < n; v++) trace += value[first[v]] + value[first[v] + 1];
    // Moves and turns of the whole cost nothing; a hair of the diagonal keeps the factor regular, and vertices of no triangle in place.
    const hair = (1e-9 * trace) / (2 * n) || 1;
    for (let v = 0; v < n; v++) {
      value[first[v]] += hair;
      value[first[v] + 1] += hair;
    }
    if (!solver.factor(value)) break;
    const d = gradient.map((g) => -g);
    solver.solve(d);
    let slope = 0;
    for (let i = 0; i < d.length; i++) slope += gradient[i] * d[i];
    if (!(slope < 0)) break;
    let length = Math.min(1, 0.8 * firstFlip(triangles, x, d, area));
    let next = energy;
    let moved = x;
    for (let tries = 0; tries < 30; tries++) {
      moved = x.map((v, i) => v + length * d[i]);
      next = energyOf(chart, moved, frames) / whole;
      if (next <= energy + 1e-4 * length * slope) break;
      length /= 2;
      next = Infinity;
    }
    if (!(next < energy)) break;
    const won = energy - next;
    x = moved;
    energy = next;
    if (won < effort.least * energy) break;
  }
  return { uv: x, before, after: energy / 4 };
}

/** Σ area · (σ₁² + σ₂² + σ₁⁻² + σ₂⁻²), mm²; infinite where a triangle lies face down. */
export function energyOf(chart: Chart, uv: Float64Array, { flat, area }: Frames = framesOf(chart)): number {
  const { triangles } = chart;
  let sum = 0;
  for (let t = 0; t < area.length; t++) {
    if (area[t] === 0) continue;
    const j = jacobian(triangles, uv, flat, t);
    const [j00, j01, j10, j11] = [j[0], j[1], j[2], j[3]];
    const det = j00 * j11 - j01 * j10;
    if (!(det > 0)) return Infinity;
    const norm = j00 * j00 + j01 * j01 + j10 * j10 + j11 * j11;
    sum += area[t] * norm * (1 + 1 / (det * det));
  }
  return sum;
}

const found = new Float64Array(4);

/** How a triangle is mapped from its own plane into the layout: J = D·B with B the inverse of its own sides, by rows. Overwritten by the next. */
function jacobian(triangles: Uint32Array, uv: Float64Array, flat: Float64Array, t: number): Float64Array {
  const a = 2 * triangles[3 * t];
  const b = 2 * triangles[3 * t + 1];
  const c = 2 * triangles[3 * t + 2];
  const [x1, x2, y2] = [flat[3 * t], flat[3 * t + 1], flat[3 * t + 2]];
  found[0] = (uv[b] - uv[a]) / x1;
  found[2] = (uv[b + 1] - uv[a + 1]) / x1;
  found[1] = (uv[c] - uv[a] - found[0] * x2) / y2;
  found[3] = (uv[c + 1] - uv[a + 1] - found[2] * x2) / y2;
  return found;
}

/** Adds a triangle’s gradient and puts its positive Hessian (6 × 6, rows x₀ y₀ x₁ y₁ x₂ y₂) into `own`. */
function hessian(
  triangles: Uint32Array,
  uv: Float64Array,
  flat: Float64Array,
  t: number,
  weight: number,
  gradient: Float64Array,
  own: Float64Array,
): void {
  const a = 2 * triangles[3 * t];
  const b = 2 * triangles[3 * t + 1];
  const c = 2 * triangles[3 * t + 2];
  const [x1, x2, y2] = [flat[3 * t], flat[3 * t + 1], flat[3 * t + 2]];
  const m = jacobian(triangles, uv, flat, t);
  const [j00, j01, j10, j11] = [m[0], m[1], m[2], m[3]];
  // Singular values and the turns of both sides: J = R(u)·diag(s1, s2)·R(v)ᵀ with determinants 1.
  const [e, f, g, h] = [(j00 + j11) / 2, (j00 - j11) / 2, (j10 + j01) / 2, (j10 - j01) / 2];
  const q = Math.sqrt(e * e + h * h);
  const r = Math.sqrt(f * f + g * g);
  const s1 = q + r;
  const s2 = Math.max(q - r, 1e-12);
  const [a1, a2] = [Math.atan2(g, f), Math.atan2(h, e)];
  const [u, v] = [(a2 + a1) / 2, (a1 - a2) / 2];
  const [cu, su, cv, sv] = [Math.cos(u), Math.sin(u), Math.cos(v), Math.sin(v)];
  const p1 = 2 * s1 - 2 / (s1 * s1 * s1);
  const p2 = 2 * s2 - 2 / (s2 * s2 * s2);
  const cube = s1 * s2 * (s1 * s2) * (s1 * s2);
  const values = [
    2 + 6 / (s1 * s1 * s1 * s1),
    2 + 6 / (s2 * s2 * s2 * s2),
    2 + (2 * (s1 * s1 + s1 * s2 + s2 * s2)) / cube,
    Math.max(0, 2 - (2 * (s1 * s1 - s1 * s2 + s2 * s2)) / cube),
  ];
  // Rows of dJ by corner: the derivative of J[i][k] by coordinate i of corner c is G[c][k].
  const g1 = [1 / x1, -x2 / (x1 * y2)];
  const g2 = [0, 1 / y2];
  const g0 = [-g1[0] - g2[0], -g1[1] - g2[1]];
  // u₁v₁ᵀ and so on: columns of R(u) are (cu, su) and (−su, cu), of R(v) likewise.
  const half = Math.SQRT1_2;
  const m11 = [cu * cv, cu * sv, su * cv, su * sv];
  const m22 = [su * sv, -su * cv, -cu * sv, cu * cv];
  const m12 = [-cu * sv, cu * cv, -su * sv, su * cv];
  const m21 = [-su * cv, -su * sv, cu * cv, cu * sv];
  own.fill(0);
  const at = [a, b, c];
  const gs = [g0, g1, g2];
  for (let k = 0; k < 3; k++) {
    const [gx, gy] = gs[k];
    for (let i = 0; i < 2; i++)
      gradient[at[k] + i] += weight * ((p1 * m11[2 * i] + p2 * m22[2 * i]) * gx + (p1 * m11[2 * i + 1] + p2 * m22[2 * i + 1]) * gy);
  }
  const w = [0, 0, 0, 0, 0, 0];
  for (let mode = 0; mode < 4; mode++) {
    const lambda = weight * values[mode];
    if (lambda === 0) continue;
    for (let k = 0; k < 3; k++) {
      const [gx, gy] = gs[k];
      for (let i = 0; i < 2; i++) {
        const m0 = mode === 0 ? m11[2 * i] : mode === 1 ? m22[2 * i] : half * (m12[2 * i] + (mode === 2 ? m21[2 * i] : -m21[2 * i]));
        const m1 =
          mode === 0
            ? m11[2 * i + 1]
            : mode === 1
              ? m22[2 * i + 1]
              : half * (m12[2 * i + 1] + (mode === 2 ? m21[2 * i + 1] : -m21[2 * i + 1]));
        w[2 * k + i] = m0 * gx + m1 * gy;
      }
    }
    for (let i = 0; i < 6; i++) for (let j = 0; j < 6; j++) own[6 * i + j] += lambda * w[i] * w[j];
  }
}

/** The least length of a step at which a triangle with a shape loses its area; Infinity when none does. */
function firstFlip(triangles: Uint32Array, x: Float64Array, d: Float64Array, area: Float64Array): number {
  let least = Infinity;
  for (let t = 0; t < area.length; t++) {
    if (area[t] === 0) continue;
    const a = 2 * triangles[3 * t];
    const b = 2 * triangles[3 * t + 1];
    const c = 2 * triangles[3 * t + 2];
    const [ux, uy, vx, vy] = [x[b] - x[a], x[b + 1] - x[a + 1], x[c] - x[a], x[c + 1] - x[a + 1]];
    const [px, py, qx, qy] = [d[b] - d[a], d[b + 1] - d[a + 1], d[c] - d[a], d[c + 1] - d[a + 1]];
    const k0 = ux * vy - uy * vx;
    const k1 = ux * qy - uy * qx + px * vy - py * vx;
    const k2 = px * qy - py * qx;
    // k0 + k1 s + k2 s² = 0, k0 > 0: the least positive root, written so that nothing cancels.
    const root = k1 * k1 - 4 * k2 * k0;
    if (root < 0) continue;
    const far = -k1 + Math.sqrt(root);
    const near = -k1 - Math.sqrt(root);
    for (const s of [far !== 0 ? (2 * k0) / far : -1, near !== 0 ? (2 * k0) / near : -1]) if (s > 0 && s < least) least = s;
  }
  return least;
}
