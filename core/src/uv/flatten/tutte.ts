import { type Chart, matchArea } from './chart';

/**
 * Barycentric map with mean value weights (Tutte 1963; Floater 2003): the rim goes round a circle by its lengths and
 * every inner vertex stands at a positive-weighted mean of its neighbours, so no triangle can fold and nothing overlaps.
 * Solved by successive over-relaxation.
 */
export function tutte(chart: Chart, rim: readonly number[]): Float64Array {
  const n = chart.points.length / 3;
  const p = chart.points;
  const uv = new Float64Array(2 * n);
  const fixed = new Uint8Array(n);
  const gap = (a: number, b: number) => Math.hypot(p[3 * a] - p[3 * b], p[3 * a + 1] - p[3 * b + 1], p[3 * a + 2] - p[3 * b + 2]);
  const total = rim.reduce((s, v, i) => s + gap(v, rim[(i + 1) % rim.length]), 0);
  let done = 0;
  for (const [i, v] of rim.entries()) {
    const angle = (2 * Math.PI * done) / total;
    uv[2 * v] = Math.cos(angle);
    uv[2 * v + 1] = Math.sin(angle);
    fixed[v] = 1;
    done += gap(v, rim[(i + 1) % rim.length]);
  }
  const weights: Map<number, number>[] = Array.from({ length: n }, () => new Map());
  for (let t = 0; t < chart.triangles.length; t += 3)
    for (let k = 0; k < 3; k++) {
      const [a, b, c] = [chart.triangles[t + k], chart.triangles[t + ((k + 1) % 3)], chart.triangles[t + ((k + 2) % 3)]];
      const half = Math.tan(angleAt(p, a, b, c) / 2);
      for (const other of [b, c]) {
        const w = Math.max(half, 1e-6) / Math.max(gap(a, other), 1e-9);
        weights[a].set(other, (weights[a].get(other) ?? 0) + w);
      }
    }
  const inner: number[] = [];
  for (let v = 0; v < n; v++) if (!fixed[v]) inner.push(v);
  const relax = 1.6;
  for (let pass = 0; pass < 4000; pass++) {
    let moved = 0;
    for (const v of inner) {
      let [sx, sy, sw] = [0, 0, 0];
      for (const [o, w] of weights[v]) {
        sx += w * uv[2 * o];
        sy += w * uv[2 * o + 1];
        sw += w;
      }
      if (sw === 0) continue;
      const dx = relax * (sx / sw - uv[2 * v]);
      const dy = relax * (sy / sw - uv[2 * v + 1]);
      uv[2 * v] += dx;
      uv[2 * v + 1] += dy;
      moved = Math.max(moved, Math.abs(dx), Math.abs(dy));
    }
    if (moved < 1e-10) break;
  }
  return matchArea(chart, uv);
}

function angleAt(p: Float64Array, a: number, b: number, c: number): number {
  const u = [p[3 * b] - p[3 * a], p[3 * b + 1] - p[3 * a + 1], p[3 * b + 2] - p[3 * a + 2]];
  const v = [p[3 * c] - p[3 * a], p[3 * c + 1] - p[3 * a + 1], p[3 * c + 2] - p[3 * a + 2]];
  const cr = Math.hypot(u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]);
  return Math.atan2(cr, u[0] * v[0] + u[1] * v[1] + u[2] * v[2]);
}
