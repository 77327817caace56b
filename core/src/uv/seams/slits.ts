import TinyQueue from 'tinyqueue';
import type { Edges } from '../../mesh/connectivity';
import type { Chart, Rims } from '../flatten/chart';
import type { FaceGraph } from './regions';

/** What a mm of an edge counts as that a person closed: it is cut only where there is no other way. */
const CLOSED = 1000;

/**
 * The edges to cut so that one rim less is left: the shortest way along edges of the mesh from the longest rim to another.
 *
 * @param graph says what each edge's mm count as; all the same where absent
 * @returns edges of the mesh; empty where there is no way
 */
export function slit(edges: Edges, chart: Chart, { loops }: Rims, graph?: Pick<FaceGraph, 'dear' | 'joined'>): number[] {
  const dear = (e: number): number => (graph?.dear?.[e] ?? 1) * (graph?.joined?.[e] ? CLOSED : 1);
  const n = chart.points.length / 3;
  const { corners, local } = chart;
  // Neighbours along edges of faces, each with the edge of the mesh.
  const start = new Int32Array(n + 1);
  const ends = new Int32Array(2 * corners.length);
  let first = 0;
  for (let i = 0; i < corners.length; i++) {
    if (i > first && edges.faceOf[corners[i]] !== edges.faceOf[corners[i - 1]]) first = i;
    const last = i + 1 === corners.length || edges.faceOf[corners[i + 1]] !== edges.faceOf[corners[i]];
    ends[2 * i] = local[i];
    ends[2 * i + 1] = last ? local[first] : local[i + 1];
    start[ends[2 * i] + 1]++;
    start[ends[2 * i + 1] + 1]++;
  }
  for (let v = 0; v < n; v++) start[v + 1] += start[v];
  const fill = start.slice(0, n);
  const side = new Int32Array(2 * corners.length);
  for (let i = 0; i < 2 * corners.length; i++) side[fill[ends[i]]++] = i;
  const goal = new Uint8Array(n);
  for (const loop of loops.slice(1)) for (const v of loop) goal[v] = 1;
  const lengthOf = (loop: number[]) => loop.reduce((s, v, i) => s + apart(chart.points, v, loop[(i + 1) % loop.length]), 0);
  const from = loops.reduce((best, l) => (lengthOf(l) > lengthOf(best) ? l : best), loops[0]);
  if (from !== loops[0]) {
    for (const v of from) goal[v] = 0;
    for (const v of loops[0]) goal[v] = 1;
  }
  const distance = new Float64Array(n).fill(Infinity);
  const by = new Int32Array(n).fill(-1);
  const queue = new TinyQueue<[distance: number, vertex: number]>([], (a, b) => a[0] - b[0]);
  for (const v of from) {
    distance[v] = 0;
    queue.push([0, v]);
  }
  for (let top = queue.pop(); top; top = queue.pop()) {
    const [d, v] = top;
    if (d > distance[v]) continue;
    if (goal[v]) {
      const out: number[] = [];
      for (let w = v; by[w] >= 0; w = ends[by[w]]) out.push(edges.ofCorner[corners[by[w] >> 1]]);
      return out;
    }
    for (let p = start[v]; p < start[v + 1]; p++) {
      const w = ends[side[p] ^ 1];
      const next = d + apart(chart.points, v, w) * dear(edges.ofCorner[corners[side[p] >> 1]]);
      if (next >= distance[w]) continue;
      distance[w] = next;
      by[w] = side[p];
      queue.push([next, w]);
    }
  }
  return [];
}

const apart = (p: Float64Array, a: number, b: number): number =>
  Math.hypot(p[3 * a] - p[3 * b], p[3 * a + 1] - p[3 * b + 1], p[3 * a + 2] - p[3 * b + 2]);
