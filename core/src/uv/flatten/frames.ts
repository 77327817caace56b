import { dissected } from '../../maths/cholesky';
import { areaInSpace, type Chart } from './chart';

/** Triangles of a chart in planes of their own: what every flattening starts from. */
export interface Frames {
  /** For each triangle x of its second corner and x, y of its third; the first lies at the origin. Zero where it has no area. */
  flat: Float64Array;
  /** Area in space, mm²; zero where a triangle is too thin to have a shape. */
  area: Float64Array;
}

/** A triangle is taken for one without area when its height is less than this share of its longest side. */
const THIN = 1e-6;

export function framesOf(chart: Chart): Frames {
  const count = chart.triangles.length / 3;
  const p = chart.points;
  const flat = new Float64Array(3 * count);
  const area = new Float64Array(count);
  for (let t = 0; t < count; t++) {
    const a = 3 * chart.triangles[3 * t];
    const b = 3 * chart.triangles[3 * t + 1];
    const c = 3 * chart.triangles[3 * t + 2];
    const [ux, uy, uz] = [p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]];
    const [vx, vy, vz] = [p[c] - p[a], p[c + 1] - p[a + 1], p[c + 2] - p[a + 2]];
    const base = Math.sqrt(ux * ux + uy * uy + uz * uz);
    const own = areaInSpace(chart, t);
    const far = Math.max(base, Math.sqrt(vx * vx + vy * vy + vz * vz), Math.hypot(p[c] - p[b], p[c + 1] - p[b + 1], p[c + 2] - p[b + 2]));
    if (2 * own <= THIN * far * far || base === 0) continue;
    area[t] = own;
    flat[3 * t] = base;
    flat[3 * t + 1] = (ux * vx + uy * vy + uz * vz) / base;
    flat[3 * t + 2] = (2 * own) / base;
  }
  return { flat, area };
}

/** Pairs of vertices that share a triangle, each once and with the lower one first, and each vertex with itself. */
export interface Pattern {
  row: Int32Array;
  column: Int32Array;
  /** For each triangle the six entries (00, 11, 22, 01, 12, 20) of `row` and `column`. */
  ofTriangle: Int32Array;
  /** An order of elimination that keeps a factor sparse. */
  order: Int32Array;
}

export function patternOf(chart: Chart): Pattern {
  const n = chart.points.length / 3;
  const { triangles } = chart;
  const start = new Int32Array(n + 1);
  for (let i = 0; i < triangles.length; i += 3)
    for (let k = 0; k < 3; k++) start[Math.min(triangles[i + k], triangles[i + ((k + 1) % 3)]) + 1]++;
  for (let v = 0; v < n; v++) start[v + 1] += start[v];
  const fill = start.slice(0, n);
  const other = new Int32Array(triangles.length);
  const entry = new Int32Array(triangles.length);
  const row: number[] = [];
  const column: number[] = [];
  for (let v = 0; v < n; v++) {
    row.push(v);
    column.push(v);
  }
  const ofTriangle = new Int32Array(2 * triangles.length);
  for (let i = 0; i < triangles.length; i += 3)
    for (let k = 0; k < 3; k++) {
      const [a, b] = [triangles[i + k], triangles[i + ((k + 1) % 3)]];
      const [low, high] = a < b ? [a, b] : [b, a];
      ofTriangle[2 * i + k] = a;
      let at = -1;
      for (let q = start[low]; q < fill[low]; q++) if (other[q] === high) at = entry[q];
      if (at < 0) {
        at = row.length;
        row.push(low);
        column.push(high);
        other[fill[low]] = high;
        entry[fill[low]++] = at;
      }
      ofTriangle[2 * i + 3 + k] = at;
    }
  const ends = new Int32Array(n + 1);
  for (let k = n; k < row.length; k++) {
    ends[row[k] + 1]++;
    ends[column[k] + 1]++;
  }
  for (let v = 0; v < n; v++) ends[v + 1] += ends[v];
  const next = ends.slice(0, n);
  const neighbours = new Int32Array(2 * (row.length - n));
  for (let k = n; k < row.length; k++) {
    neighbours[next[row[k]]++] = column[k];
    neighbours[next[column[k]]++] = row[k];
  }
  return { row: Int32Array.from(row), column: Int32Array.from(column), ofTriangle, order: dissected(chart.points, ends, neighbours) };
}
