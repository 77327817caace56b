import type { Chart } from './chart';
import { type Frames, framesOf } from './frames';

/** How far places of one vertex reached on different ways may lie apart, as a share of the chart’s extent. */
const SAME = 1e-6;

/**
 * A chart laid out triangle by triangle, each at its true shape beside the one before: exact where the surface can be unrolled. Null
 * where two ways to a vertex end in different places, so that it can’t be.
 */
export function unfold(chart: Chart, { flat, area }: Frames = framesOf(chart), same = SAME): Float64Array | null {
  const { triangles } = chart;
  const count = triangles.length / 3;
  const n = chart.points.length / 3;
  const beside = neighboursOf(chart);
  const uv = new Float64Array(2 * n).fill(Number.NaN);
  const [first] = area.reduce(([best, most], a, t) => (a > most ? [t, a] : [best, most]), [-1, 0]);
  if (first < 0) return null;
  const scale = Math.sqrt(area.reduce((s, a) => s + a, 0));
  const put = (v: number, x: number, y: number): boolean => {
    if (Number.isNaN(uv[2 * v])) {
      uv[2 * v] = x;
      uv[2 * v + 1] = y;
      return true;
    }
    return Math.abs(uv[2 * v] - x) + Math.abs(uv[2 * v + 1] - y) <= same * scale;
  };
  const seen = new Uint8Array(count);
  const queue = [first];
  seen[first] = 1;
  put(triangles[3 * first], 0, 0);
  put(triangles[3 * first + 1], flat[3 * first], 0);
  put(triangles[3 * first + 2], flat[3 * first + 1], flat[3 * first + 2]);
  for (const t of queue)
    for (let k = 0; k < 3; k++) {
      const u = beside[3 * t + k];
      if (u < 0 || seen[u]) continue;
      seen[u] = 1;
      // Without area it has no shape to lay: it lies on the side it shares, and what is beyond it is reached another way.
      if (area[u] === 0) return null;
      queue.push(u);
      // The corner of u across the side it shares with t.
      const [a, b] = [triangles[3 * t + k], triangles[3 * t + ((k + 1) % 3)]];
      let j = 0;
      while (triangles[3 * u + j] !== b) j++;
      const c = triangles[3 * u + ((j + 2) % 3)];
      // In u’s own plane: b, a, c.
      const [px, py, qx, qy, rx, ry] = placed(flat, u, j);
      const [ex, ey] = [qx - px, qy - py];
      const l2 = ex * ex + ey * ey;
      const s = ((rx - px) * ex + (ry - py) * ey) / l2;
      const h = ((ry - py) * ex - (rx - px) * ey) / l2;
      const [bx, by] = [uv[2 * b], uv[2 * b + 1]];
      const [dx, dy] = [uv[2 * a] - bx, uv[2 * a + 1] - by];
      if (!put(c, bx + s * dx - h * dy, by + s * dy + h * dx)) return null;
    }
  return uv.some(Number.isNaN) ? null : uv;
}

/** The three corners of a triangle in its own plane, from corner `j` on. */
function placed(flat: Float64Array, t: number, j: number): [number, number, number, number, number, number] {
  const [b, cx, cy] = [flat[3 * t], flat[3 * t + 1], flat[3 * t + 2]];
  if (j === 0) return [0, 0, b, 0, cx, cy];
  if (j === 1) return [b, 0, cx, cy, 0, 0];
  return [cx, cy, 0, 0, b, 0];
}

/** For each side of each triangle the triangle across it; −1 on a rim. */
export function neighboursOf(chart: Chart): Int32Array {
  const { triangles } = chart;
  const n = chart.points.length / 3;
  const start = new Uint32Array(n + 1);
  for (const v of triangles) start[v + 1]++;
  for (let v = 0; v < n; v++) start[v + 1] += start[v];
  const fill = start.slice(0, n);
  const sides = new Uint32Array(triangles.length);
  for (let s = 0; s < triangles.length; s++) sides[fill[triangles[s]]++] = s;
  const out = new Int32Array(triangles.length).fill(-1);
  const end = (s: number) => triangles[s % 3 === 2 ? s - 2 : s + 1];
  for (let s = 0; s < triangles.length; s++) {
    const b = end(s);
    for (let p = start[b]; p < start[b + 1]; p++) if (end(sides[p]) === triangles[s]) out[s] = Math.floor(sides[p] / 3);
  }
  return out;
}
