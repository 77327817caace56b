import { areaInSpace, areaLaid, type Chart } from './chart';

/** Triangles laid face down. Those without area in space have no side to lie on and are not counted. */
export function folds(chart: Chart, uv: Float64Array): number {
  let n = 0;
  for (let t = 0; t < chart.triangles.length / 3; t++) if (areaLaid(chart, uv, t) <= 0 && areaInSpace(chart, t) > 1e-9) n++;
  return n;
}

/** Whether a rim crosses itself. A fold-free disk with a simple rim overlaps nowhere. */
export function rimCrosses(rim: readonly number[], uv: Float64Array): boolean {
  const n = rim.length;
  const cell = new Map<string, number[]>();
  let long = 0;
  for (let i = 0; i < n; i++) {
    const [a, b] = [2 * rim[i], 2 * rim[(i + 1) % n]];
    long += Math.hypot(uv[a] - uv[b], uv[a + 1] - uv[b + 1]);
  }
  const size = Math.max((2 * long) / n, 1e-9);
  for (let i = 0; i < n; i++) {
    const [a, b] = [2 * rim[i], 2 * rim[(i + 1) % n]];
    const [x0, x1] = [Math.min(uv[a], uv[b]), Math.max(uv[a], uv[b])];
    const [y0, y1] = [Math.min(uv[a + 1], uv[b + 1]), Math.max(uv[a + 1], uv[b + 1])];
    for (let x = Math.floor(x0 / size); x <= Math.floor(x1 / size); x++)
      for (let y = Math.floor(y0 / size); y <= Math.floor(y1 / size); y++) {
        const key = `${x},${y}`;
        const list = cell.get(key) ?? [];
        for (const j of list) {
          if (j === i || (j + 1) % n === i || (i + 1) % n === j) continue;
          if (cross(uv, a, b, 2 * rim[j], 2 * rim[(j + 1) % n])) return true;
        }
        list.push(i);
        cell.set(key, list);
      }
  }
  return false;
}

function cross(uv: Float64Array, a: number, b: number, c: number, d: number): boolean {
  const side = (p: number, q: number, r: number) => (uv[q] - uv[p]) * (uv[r + 1] - uv[p + 1]) - (uv[q + 1] - uv[p + 1]) * (uv[r] - uv[p]);
  return side(a, b, c) * side(a, b, d) <= 0 && side(c, d, a) * side(c, d, b) <= 0;
}
