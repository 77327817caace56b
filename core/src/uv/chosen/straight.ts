import { at, cross, distance, dot, length, sub } from '../../maths/vec3';
import type { PolyMesh } from '../../mesh/polymesh';
import { areaInSpace, type Chart, matchArea } from '../flatten/chart';
import { type Pattern, patternOf } from '../flatten/frames';
import { barycentric, rimLengths } from '../flatten/tutte';

/** A corner of a rim turns by more than this, radians: 30°. */
const TURN = Math.PI / 6;

/**
 * A disk laid to a rectangle: the four vertices where its rim turns most go to the corners, its sides are straight with their lengths kept
 * in proportion, and what is inside hangs in between (Tutte 1963). Nothing overlaps; a triangle with all corners on one side of the
 * rectangle has no area there, which the caller has to look for.
 *
 * @param size its width and height; when absent it is as long as the means of its long sides, and as wide as its area then asks
 * @returns 2 per vertex, the longer side along u, or null where the rim has no four corners or the equations can’t be solved
 */
export function toRectangle(
  chart: Chart,
  rim: readonly number[],
  size?: readonly [number, number],
  pattern?: Pattern,
): Float64Array | null {
  const corners = fourCorners(chart, rim);
  if (!corners) return null;
  const lengths = rimLengths(chart, rim);
  const sides = corners.map((from, k) => {
    const to = corners[(k + 1) % 4] + (k === 3 ? rim.length : 0);
    let sum = 0;
    for (let i = from; i < to; i++) sum += lengths[i % rim.length];
    return { from, to, sum };
  });
  // The first side is one of the long ones: of two alike the one that begins earlier on the rim.
  const first = sides[0].sum + sides[2].sum >= sides[1].sum + sides[3].sum - 1e-9 ? 0 : 1;
  const order = [0, 1, 2, 3].map((k) => sides[(first + k) % 4]);
  const long = (order[0].sum + order[2].sum) / 2;
  let area = 0;
  for (let t = 0; t < chart.triangles.length / 3; t++) area += areaInSpace(chart, t);
  if (!(long > 0) || !(area > 0)) return null;
  const [w, h] = size ? [Math.max(...size), Math.min(...size)] : [long, area / long];
  const uv = new Float64Array((2 * chart.points.length) / 3);
  const ends = [
    [0, 0],
    [w, 0],
    [w, h],
    [0, h],
  ];
  for (const [k, { from, to, sum }] of order.entries()) {
    const [a, b] = [ends[k], ends[(k + 1) % 4]];
    let done = 0;
    for (let i = from; i < to; i++) {
      const t = sum > 0 ? done / sum : (i - from) / (to - from);
      const v = rim[i % rim.length];
      uv.set([a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])], 2 * v);
      done += lengths[i % rim.length];
    }
  }
  const inside = barycentric(chart, rim, uv, pattern ?? patternOf(chart));
  if (!inside) return null;
  // As it was said, upright: the longer side along v where the height is the larger.
  const upright = size && size[1] > size[0];
  const turned = upright ? inside.map((_, i) => (i % 2 === 0 ? h - inside[i + 1] : inside[i - 1])) : inside;
  return matchArea(chart, turned);
}

/** Places on the rim of the four vertices where it turns most, in order; null where fewer turn. */
function fourCorners(chart: Chart, rim: readonly number[]): number[] | null {
  const angle = new Float64Array(chart.points.length / 3);
  for (let i = 0; i < chart.triangles.length; i += 3)
    for (let k = 0; k < 3; k++) {
      const [o, a, b] = [0, 1, 2].map((j) => at(chart.points, chart.triangles[i + ((k + j) % 3)]));
      const [u, v] = [sub(a, o), sub(b, o)];
      angle[chart.triangles[i + k]] += Math.atan2(length(cross(u, v)), dot(u, v));
    }
  const turn = rim.map((v) => Math.PI - angle[v]);
  const places = [...rim.keys()].sort((a, b) => turn[b] - turn[a] || a - b).slice(0, 4);
  return places.length === 4 && places.every((i) => turn[i] > TURN) ? places.sort((a, b) => a - b) : null;
}

/** What of faces could be laid by rows and columns. */
interface Grid {
  /** 2 per vertex of the chart; null where nothing could. */
  uv: Float64Array | null;
  /** Faces that are in no row, or where rows run into each other. */
  wrong: number[];
}

/**
 * Quads laid by their rows and columns: every column is as wide as its quads are on average, every row as high. Faces with other than four
 * corners, and those where the counting of rows comes out two ways, are named.
 */
export function toGrid(mesh: PolyMesh, chart: Chart): Grid {
  const quads = new Set(chart.faces.filter((f) => mesh.faceStart[f + 1] - mesh.faceStart[f] === 4));
  const wrong = chart.faces.filter((f) => !quads.has(f));
  if (wrong.length > 0) return { uv: null, wrong };
  const vertex = new Map<number, number>();
  for (const [i, c] of chart.corners.entries()) vertex.set(c, chart.local[i]);
  const of = (f: number): number[] => [0, 1, 2, 3].map((k) => vertex.get(mesh.faceStart[f] + k) as number);
  const beside = new Map<string, number>();
  for (const f of chart.faces) {
    const v = of(f);
    for (let k = 0; k < 4; k++) beside.set(`${v[k]}>${v[(k + 1) % 4]}`, f);
  }
  const places = new Map<number, readonly [number, number]>();
  const taken = new Map<string, number>();
  const put = (v: number, p: readonly [number, number]): boolean => {
    const before = places.get(v);
    if (!before) places.set(v, p);
    return !before || (before[0] === p[0] && before[1] === p[1]);
  };
  const first = chart.faces[0];
  const queue: [number, number, readonly [number, number], readonly [number, number]][] = [[first, 0, [0, 0], [1, 0]]];
  const done = new Set<number>([first]);
  for (const [f, k, from, along] of queue) {
    // The side that begins at corner k goes from `from` along `along`; the quad lies to the left of it.
    const v = of(f);
    const left: readonly [number, number] = [-along[1], along[0]];
    const spots = [
      from,
      [from[0] + along[0], from[1] + along[1]],
      [from[0] + along[0] + left[0], from[1] + along[1] + left[1]],
      [from[0] + left[0], from[1] + left[1]],
    ] as const;
    const cell = `${Math.min(...spots.map((s) => s[0]))},${Math.min(...spots.map((s) => s[1]))}`;
    if (taken.has(cell) || spots.some((s, i) => !put(v[(k + i) % 4], s))) {
      wrong.push(f);
      continue;
    }
    taken.set(cell, f);
    for (let i = 0; i < 4; i++) {
      const [a, b] = [v[(k + i) % 4], v[(k + i + 1) % 4]];
      const g = beside.get(`${b}>${a}`);
      if (g === undefined || done.has(g)) continue;
      done.add(g);
      const [pa, pb] = [spots[i], spots[(i + 1) % 4]];
      queue.push([g, of(g).indexOf(b), pb, [pa[0] - pb[0], pa[1] - pb[1]]]);
    }
  }
  if (wrong.length > 0) return { uv: null, wrong };
  const columns = new Means();
  const rows = new Means();
  for (const f of chart.faces) {
    const v = of(f);
    for (let k = 0; k < 4; k++) {
      const [a, b] = [v[k], v[(k + 1) % 4]];
      const [pa, pb] = [places.get(a), places.get(b)] as [readonly [number, number], readonly [number, number]];
      const long = distance(at(chart.points, a), at(chart.points, b));
      if (pa[1] === pb[1]) columns.add(Math.min(pa[0], pb[0]), long);
      else rows.add(Math.min(pa[1], pb[1]), long);
    }
  }
  const [u, w] = [columns.sums(), rows.sums()];
  const uv = new Float64Array((2 * chart.points.length) / 3);
  for (const [v, [i, j]] of places) uv.set([u(i), w(j)], 2 * v);
  return { uv: matchArea(chart, uv), wrong };
}

/** Means of lengths by whole number, and their sums up to each. */
class Means {
  private readonly of = new Map<number, [number, number]>();
  add(i: number, long: number): void {
    const m = this.of.get(i) ?? [0, 0];
    this.of.set(i, [m[0] + long, m[1] + 1]);
  }
  sums(): (i: number) => number {
    const keys = [...this.of.keys()].sort((a, b) => a - b);
    const at = new Map<number, number>();
    let sum = 0;
    for (const k of keys) {
      at.set(k, sum);
      const [total, n] = this.of.get(k) as [number, number];
      sum += total / n;
      at.set(k + 1, sum);
    }
    return (i) => at.get(i) ?? 0;
  }
}
