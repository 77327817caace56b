import { areaLaid, type Chart } from './chart';
import { type Frames, framesOf } from './frames';

/** Triangles laid face down. Those without a shape in space have no side to lie on and are not counted. */
export function folds(chart: Chart, uv: Float64Array, { area }: Frames = framesOf(chart)): number {
  let n = 0;
  for (let t = 0; t < area.length; t++) if (area[t] > 0 && areaLaid(chart, uv, t) <= 0) n++;
  return n;
}

/** Whether a rim crosses itself. A fold-free disk with a simple rim overlaps nowhere. */
export const rimCrosses = (rim: readonly number[], uv: Float64Array): boolean => rimsCross([rim], uv);

/** Whether rims cross themselves or each other. */
export function rimsCross(rims: readonly (readonly number[])[], uv: Float64Array): boolean {
  const ends: number[] = [];
  for (const rim of rims) for (let i = 0; i < rim.length; i++) ends.push(2 * rim[i], 2 * rim[i + 1 < rim.length ? i + 1 : 0]);
  const n = ends.length / 2;
  let long = 0;
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = 0; i < n; i++) {
    const [a, b] = [ends[2 * i], ends[2 * i + 1]];
    long += Math.hypot(uv[a] - uv[b], uv[a + 1] - uv[b + 1]);
    x0 = Math.min(x0, uv[a]);
    x1 = Math.max(x1, uv[a]);
    y0 = Math.min(y0, uv[a + 1]);
    y1 = Math.max(y1, uv[a + 1]);
  }
  // Cells about as large as an edge, but no more of them than a few for each edge.
  const size = Math.max((2 * long) / n, Math.max(x1 - x0, y1 - y0) / 1000, 1e-12);
  const across = Math.floor((x1 - x0) / size) + 1;
  const cells = new Map<number, number[]>();
  for (let i = 0; i < n; i++) {
    const [a, b] = [ends[2 * i], ends[2 * i + 1]];
    const [fromX, toX] = [Math.min(uv[a], uv[b]), Math.max(uv[a], uv[b])];
    const [fromY, toY] = [Math.min(uv[a + 1], uv[b + 1]), Math.max(uv[a + 1], uv[b + 1])];
    for (let y = Math.floor((fromY - y0) / size); y <= Math.floor((toY - y0) / size); y++)
      for (let x = Math.floor((fromX - x0) / size); x <= Math.floor((toX - x0) / size); x++) {
        const key = y * across + x;
        const list = cells.get(key);
        if (!list) {
          cells.set(key, [i]);
          continue;
        }
        for (const j of list) {
          const [c, d] = [ends[2 * j], ends[2 * j + 1]];
          if (j === i || a === c || a === d || b === c || b === d) continue;
          if (cross(uv, a, b, c, d)) return true;
        }
        list.push(i);
      }
  }
  return false;
}

function cross(uv: Float64Array, a: number, b: number, c: number, d: number): boolean {
  const abc = (uv[b] - uv[a]) * (uv[c + 1] - uv[a + 1]) - (uv[b + 1] - uv[a + 1]) * (uv[c] - uv[a]);
  const abd = (uv[b] - uv[a]) * (uv[d + 1] - uv[a + 1]) - (uv[b + 1] - uv[a + 1]) * (uv[d] - uv[a]);
  if (abc * abd > 0) return false;
  const cda = (uv[d] - uv[c]) * (uv[a + 1] - uv[c + 1]) - (uv[d + 1] - uv[c + 1]) * (uv[a] - uv[c]);
  const cdb = (uv[d] - uv[c]) * (uv[b + 1] - uv[c + 1]) - (uv[d + 1] - uv[c + 1]) * (uv[b] - uv[c]);
  if (cda * cdb > 0) return false;
  // All on one line: they meet where their extents do.
  if (abc === 0 && abd === 0)
    return (
      Math.max(Math.min(uv[a], uv[b]), Math.min(uv[c], uv[d])) <= Math.min(Math.max(uv[a], uv[b]), Math.max(uv[c], uv[d])) &&
      Math.max(Math.min(uv[a + 1], uv[b + 1]), Math.min(uv[c + 1], uv[d + 1])) <=
        Math.min(Math.max(uv[a + 1], uv[b + 1]), Math.max(uv[c + 1], uv[d + 1]))
    );
  return true;
}
