import { areaInSpace, type Chart, matchArea } from './chart';

/**
 * Least-squares conformal map (Lévy et al. 2002): keeps angles as well as the chart allows, with two rim vertices pinned.
 * Solved as a linear least-squares problem by conjugate gradients on the normal equations with diagonal scaling.
 *
 * @returns 2 per vertex, scaled to the surface's area; null when it does not converge
 */
export function lscm(chart: Chart, rim: readonly number[]): Float64Array | null {
  const n = chart.points.length / 3;
  const triangles = chart.triangles.length / 3;
  const [pinA, pinB] = farthest(chart, rim);
  const p = chart.points;
  // Rows: for each triangle the real and imaginary part of Σ Wj Uj / √(2A).
  const row = new Float64Array(6 * triangles);
  for (let t = 0; t < triangles; t++) {
    const [a, b, c] = [0, 1, 2].map((k) => 3 * chart.triangles[3 * t + k]);
    const e = [p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]];
    const f = [p[c] - p[a], p[c + 1] - p[a + 1], p[c + 2] - p[a + 2]];
    const x1 = Math.hypot(e[0], e[1], e[2]);
    const area2 = 2 * areaInSpace(chart, t);
    if (x1 < 1e-12 || area2 < 1e-12) continue;
    const x2 = (e[0] * f[0] + e[1] * f[1] + e[2] * f[2]) / x1;
    const y2 = area2 / x1;
    const s = 1 / Math.sqrt(area2);
    row.set([(x2 - x1) * s, y2 * s, -x2 * s, -y2 * s, x1 * s, 0], 6 * t);
  }
  const free = new Float64Array(2 * n).fill(1);
  for (const v of [pinA, pinB]) free[2 * v] = free[2 * v + 1] = 0;
  const x = new Float64Array(2 * n);
  const reach = Math.hypot(p[3 * pinA] - p[3 * pinB], p[3 * pinA + 1] - p[3 * pinB + 1], p[3 * pinA + 2] - p[3 * pinB + 2]) || 1;
  x[2 * pinB] = reach;

  const forward = (v: Float64Array, out: Float64Array) => {
    for (let t = 0; t < triangles; t++) {
      let re = 0;
      let im = 0;
      for (let k = 0; k < 3; k++) {
        const j = 2 * chart.triangles[3 * t + k];
        const wr = row[6 * t + 2 * k];
        const wi = row[6 * t + 2 * k + 1];
        re += wr * v[j] - wi * v[j + 1];
        im += wi * v[j] + wr * v[j + 1];
      }
      out[2 * t] = re;
      out[2 * t + 1] = im;
    }
  };
  const backward = (r: Float64Array, out: Float64Array) => {
    out.fill(0);
    for (let t = 0; t < triangles; t++)
      for (let k = 0; k < 3; k++) {
        const j = 2 * chart.triangles[3 * t + k];
        const wr = row[6 * t + 2 * k];
        const wi = row[6 * t + 2 * k + 1];
        out[j] += wr * r[2 * t] + wi * r[2 * t + 1];
        out[j + 1] += wr * r[2 * t + 1] - wi * r[2 * t];
      }
    for (let i = 0; i < out.length; i++) out[i] *= free[i];
  };
  const scale = new Float64Array(2 * n).fill(1e-30);
  for (let t = 0; t < triangles; t++)
    for (let k = 0; k < 3; k++) {
      const j = 2 * chart.triangles[3 * t + k];
      const w = row[6 * t + 2 * k] ** 2 + row[6 * t + 2 * k + 1] ** 2;
      scale[j] += w;
      scale[j + 1] += w;
    }
  const residual = new Float64Array(2 * triangles);
  const q = new Float64Array(2 * triangles);
  const s = new Float64Array(2 * n);
  const z = new Float64Array(2 * n);
  forward(x, residual);
  for (let i = 0; i < residual.length; i++) residual[i] = -residual[i];
  backward(residual, s);
  const d = new Float64Array(2 * n);
  let rho = 0;
  for (let i = 0; i < s.length; i++) {
    d[i] = s[i] / scale[i];
    rho += s[i] * d[i];
  }
  const stop = rho * 1e-20;
  const most = 400 + 20 * Math.ceil(Math.sqrt(n)) * 4;
  for (let iteration = 0; iteration < most && rho > stop && rho > 1e-28; iteration++) {
    forward(d, q);
    let qq = 0;
    for (const value of q) qq += value * value;
    if (qq === 0) break;
    const alpha = rho / qq;
    for (let i = 0; i < x.length; i++) x[i] += alpha * d[i];
    for (let i = 0; i < residual.length; i++) residual[i] -= alpha * q[i];
    backward(residual, s);
    let next = 0;
    for (let i = 0; i < s.length; i++) {
      z[i] = s[i] / scale[i];
      next += s[i] * z[i];
    }
    const beta = next / rho;
    for (let i = 0; i < d.length; i++) d[i] = z[i] + beta * d[i];
    rho = next;
  }
  if (!x.every(Number.isFinite)) return null;
  return matchArea(chart, x);
}

/** Two rim vertices far apart: the farthest from the first, and the farthest from that. */
function farthest(chart: Chart, rim: readonly number[]): [number, number] {
  const p = chart.points;
  const from = (a: number) => rim.reduce((best, v) => (d2(v, a) > d2(best, a) ? v : best), rim[0]);
  const d2 = (i: number, j: number) => (p[3 * i] - p[3 * j]) ** 2 + (p[3 * i + 1] - p[3 * j + 1]) ** 2 + (p[3 * i + 2] - p[3 * j + 2]) ** 2;
  const b = from(rim[0]);
  const a = from(b);
  return [a, b];
}
