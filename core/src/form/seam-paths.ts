import TinyQueue from 'tinyqueue';
import { InputError } from '../errors';
import { at, distance, type Vec3 } from '../maths/vec3';
import { type Edges, edgesOf, edgeValence, twin } from '../mesh/connectivity';
import { boundsOf } from '../mesh/measures';
import type { PolyMesh } from '../mesh/polymesh';
import { edgesCut, shadedHard } from '../uv/seams/measure';
import type { PatchLine, PickedLine } from './places';

/** A seam a person opened or closed, as the places of its vertices: it is found again on a mesh of other counts, or a newer file’s. */
export interface SeamPath {
  id: string;
  how: 'open' | 'close';
  /** In the part’s own space, mm; the last is the first where it closes. */
  points: Vec3[];
}

/** A seam picked by hand: a line of a surface, which outlives counts and steps, or a path that was drawn and is opened or closed. */
export type PickedSeam = PickedLine | SeamPath;
export const isPath = (s: PickedSeam): s is SeamPath => 'points' in s;

/** How much of a mesh a click takes. */
export type SeamReach = 'edge' | 'line' | 'path';
export const SEAM_REACH: Record<SeamReach, string> = { edge: 'one edge', line: 'the whole line', path: 'a path from place to place' };

/** Places of a path at most. */
const LONGEST = 4000;
/** A path that lies farther off than this on a newer mesh, in lengths of the edges it goes along, is lost there; shares of the mesh bound that. */
const OFF_EDGES = 0.6;
const OFF_SHARES = [0.01, 0.05];
/** How much dearer a way gets off the path that was drawn: it keeps beside it rather than cut a corner. */
const ASIDE = 30;
/** A line goes on where it turns by less than this, as a cosine: a rim of six sides just so. */
const STRAIGHT = Math.cos((65 * Math.PI) / 180);

/** Which edges meet at each vertex: those of v are `edges[start[v] … start[v + 1] - 1]`. */
interface Round {
  start: Uint32Array;
  edges: Uint32Array;
}

function roundVertices(mesh: PolyMesh, edges: Edges): Round {
  const start = new Uint32Array(mesh.positions.length / 3 + 1);
  for (const v of edges.ends) start[v + 1]++;
  for (let v = 1; v < start.length; v++) start[v] += start[v - 1];
  const fill = start.slice();
  const list = new Uint32Array(edges.ends.length);
  for (let i = 0; i < edges.ends.length; i++) list[fill[edges.ends[i]]++] = i >> 1;
  return { start, edges: list };
}

const otherEnd = (edges: Edges, e: number, v: number): number => (edges.ends[2 * e] === v ? edges.ends[2 * e + 1] : edges.ends[2 * e]);

/** The edge of a face nearest to a point of it. */
export function edgeNear(mesh: PolyMesh, face: number, point: Vec3): number {
  const edges = edgesOf(mesh);
  let [best, off] = [-1, Infinity];
  for (let c = mesh.faceStart[face]; c < mesh.faceStart[face + 1]; c++) {
    const d = fromSegment(point, at(mesh.positions, mesh.faceVert[c]), at(mesh.positions, mesh.faceVert[edges.next[c]]));
    if (d < off) [best, off] = [edges.ofCorner[c], d];
  }
  return best;
}

/** The vertex of a face nearest to a point of it. */
export function vertexNear(mesh: PolyMesh, face: number, point: Vec3): number {
  let [best, off] = [-1, Infinity];
  for (let c = mesh.faceStart[face]; c < mesh.faceStart[face + 1]; c++) {
    const d = distance(point, at(mesh.positions, mesh.faceVert[c]));
    if (d < off) [best, off] = [mesh.faceVert[c], d];
  }
  return best;
}

/**
 * The line an edge belongs to, both ways: at a vertex of four edges the one opposite, elsewhere the one that turns least; hard edges and
 * seams go on as such. It ends where it would turn sharply, at a rim, or where it began.
 *
 * @returns vertices; the last is the first where it closes
 */
export function lineThrough(mesh: PolyMesh, e: number): number[] {
  const edges = edgesOf(mesh);
  const round = roundVertices(mesh, edges);
  const [hard, cut] = [shadedHard(mesh, edges), edgesCut(mesh, edges)];
  const kind = (x: number): number => (hard[x] ? 2 : cut[x] ? 1 : 0);
  const open = (x: number): boolean => edgeValence(edges, x) === 1;
  const used = new Uint8Array(edges.count);
  used[e] = 1;
  const walk = (from: number): number[] => {
    const out = [from];
    let [v, along] = [from, e];
    for (;;) {
      const back = otherEnd(edges, along, v);
      const here = [...round.edges.subarray(round.start[v], round.start[v + 1])];
      const opposite = here.length === 4 && kind(along) === 0 ? here.filter((x) => x !== along && !shareFace(edges, along, x)) : [];
      const same = here.filter((x) => x !== along && open(x) === open(along) && (kind(along) === 0 || kind(x) >= Math.min(kind(along), 1)));
      let [next, best] = [-1, STRAIGHT];
      for (const x of opposite.length === 1 ? opposite : same) {
        const cosine = turnOf(mesh, back, v, otherEnd(edges, x, v));
        if (cosine > best) [next, best] = [x, cosine];
      }
      if (next < 0 || used[next]) return out;
      used[next] = 1;
      v = otherEnd(edges, next, v);
      along = next;
      out.push(v);
      if (v === edges.ends[2 * e] || v === edges.ends[2 * e + 1]) return out;
    }
  };
  const [a, b] = [edges.ends[2 * e], edges.ends[2 * e + 1]];
  const ahead = walk(b);
  if (ahead[ahead.length - 1] === a) return [a, ...ahead];
  return [...walk(a).reverse(), ...ahead];
}

function shareFace(edges: Edges, a: number, b: number): boolean {
  for (let i = edges.start[a]; i < edges.start[a + 1]; i++)
    for (let j = edges.start[b]; j < edges.start[b + 1]; j++)
      if (edges.faceOf[edges.corners[i]] === edges.faceOf[edges.corners[j]]) return true;
  return false;
}

/** Cosine of the turn from a → v to v → b. */
function turnOf(mesh: PolyMesh, a: number, v: number, b: number): number {
  const [p, q, r] = [at(mesh.positions, a), at(mesh.positions, v), at(mesh.positions, b)];
  const [d, e] = [q.map((x, k) => x - p[k]), r.map((x, k) => x - q[k])];
  return (d[0] * e[0] + d[1] * e[1] + d[2] * e[2]) / (Math.hypot(...d) * Math.hypot(...e) || 1);
}

/**
 * The shortest way along edges from one vertex to another (Dijkstra 1959).
 *
 * @param dear what a mm of an edge counts as
 * @returns vertices, or null where there is no way
 */
export function wayBetween(mesh: PolyMesh, from: number, to: number, dear: (e: number) => number = () => 1): number[] | null {
  const edges = edgesOf(mesh);
  const round = roundVertices(mesh, edges);
  const known = new Float64Array(mesh.positions.length / 3).fill(Infinity);
  const by = new Int32Array(known.length).fill(-1);
  const queue = new TinyQueue<[far: number, vertex: number]>([[0, from]], (a, b) => a[0] - b[0]);
  known[from] = 0;
  for (let top = queue.pop(); top; top = queue.pop()) {
    const [d, v] = top;
    if (v === to) break;
    if (d > known[v]) continue;
    for (const e of round.edges.subarray(round.start[v], round.start[v + 1])) {
      const w = otherEnd(edges, e, v);
      const far = d + distance(at(mesh.positions, v), at(mesh.positions, w)) * dear(e);
      if (far >= known[w]) continue;
      known[w] = far;
      by[w] = v;
      queue.push([far, w]);
    }
  }
  if (known[to] === Infinity) return null;
  const out = [to];
  for (let v = to; v !== from; v = by[v]) out.push(by[v]);
  return out.reverse();
}

/**
 * What a click on a face takes: its nearest edge, the line that is on, or the way from a place to the nearest corner.
 *
 * @param from where a path goes on from; its first click takes a corner alone
 * @returns vertices
 * @throws InputError in one sentence
 */
export function clickedWay(mesh: PolyMesh, face: number, point: Vec3, reach: SeamReach, from: Vec3 | null): number[] {
  if (reach === 'path') {
    const to = vertexNear(mesh, face, point);
    if (!from) return [to];
    const start = new PathFinder(mesh).nearest(from).vertex;
    const way = wayBetween(mesh, start, to);
    if (!way) throw new InputError('seam/way', 'No edges lead from the one place to the other.');
    return way;
  }
  const e = edgeNear(mesh, face, point);
  if (reach === 'line') return lineThrough(mesh, e);
  const { ends } = edgesOf(mesh);
  return [ends[2 * e], ends[2 * e + 1]];
}

/** Whether most of a way is cut in the mesh’s layout; without one, whether it is hard or was opened. */
export function isCut(mesh: PolyMesh, way: readonly number[], opened?: ArrayLike<number>): boolean {
  const edges = edgesOf(mesh);
  const cut = edgesCut(mesh, edges);
  const hard = mesh.attributes.some((a) => a.name === 'uv') ? null : shadedHard(mesh, edges);
  let [yes, no] = [0, 0];
  for (const e of edgesOfWay(mesh, edges, way) ?? []) {
    const opens = opened && [...edges.corners.subarray(edges.start[e], edges.start[e + 1])].some((c) => opened[c]);
    if (cut[e] || hard?.[e] || opens) yes++;
    else no++;
  }
  return yes > no;
}

/** The edges from vertex to vertex, or null where two of them have none. */
function edgesOfWay(mesh: PolyMesh, edges: Edges, way: readonly number[], round = roundVertices(mesh, edges)): number[] | null {
  const out: number[] = [];
  for (let i = 1; i < way.length; i++) {
    const [v, w] = [way[i - 1], way[i]];
    const e = round.edges.subarray(round.start[v], round.start[v + 1]).find((x) => otherEnd(edges, x, v) === w);
    if (e === undefined) return null;
    out.push(e);
  }
  return out;
}

/** Paths on one mesh. */
export class PathFinder {
  private readonly edges: Edges;
  private readonly round: Round;
  private readonly size: number;

  constructor(private readonly mesh: PolyMesh) {
    this.edges = edgesOf(mesh);
    this.round = roundVertices(mesh, this.edges);
    const { min, max } = boundsOf(mesh);
    this.size = distance(min, max);
  }

  /**
   * The edges a path goes along on this mesh: its own where they are there, else the way that keeps nearest to it.
   *
   * @returns edges, or null where the mesh has nothing near it
   */
  edgesAlong({ points }: SeamPath): number[] | null {
    const { mesh, edges } = this;
    const near = points.map((p) => this.nearest(p));
    if (near.some((n) => n.vertex < 0)) return null;
    const own = near.every((n) => n.off <= 1e-6 * this.size);
    const direct = own
      ? edgesOfWay(
          mesh,
          edges,
          near.map((n) => n.vertex),
          this.round,
        )
      : null;
    if (direct) return direct;
    const closes = points.length > 2 && distance(points[0], points[points.length - 1]) <= 1e-6 * this.size;
    // Round a ring three ways are looked for, so that each has an end of its own.
    const stops = (closes ? [0, 1 / 3, 2 / 3, 1] : [0, 1]).map((s) => near[Math.round(s * (near.length - 1))].vertex);
    const aside = (e: number): number => {
      const [a, b] = [at(mesh.positions, edges.ends[2 * e]), at(mesh.positions, edges.ends[2 * e + 1])];
      const middle: Vec3 = [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2, (a[2] + b[2]) / 2];
      return 1 + ASIDE * (fromPath(middle, points) / Math.max(distance(a, b), 1e-12)) ** 2;
    };
    const out: number[] = [];
    for (let i = 1; i < stops.length; i++) {
      if (stops[i] === stops[i - 1]) continue;
      const way = wayBetween(mesh, stops[i - 1], stops[i], aside);
      const along = way && edgesOfWay(mesh, edges, way, this.round);
      if (!along) return null;
      out.push(...along);
    }
    if (out.length === 0) return null;
    let [off, length] = [0, 0];
    for (const e of out) {
      const [a, b] = [at(mesh.positions, edges.ends[2 * e]), at(mesh.positions, edges.ends[2 * e + 1])];
      off = Math.max(off, fromPath(a, points), fromPath(b, points));
      length += distance(a, b) / out.length;
    }
    const [least, most] = OFF_SHARES.map((share) => share * this.size);
    return off <= Math.min(most, Math.max(least, OFF_EDGES * length)) ? [...new Set(out)] : null;
  }

  /** The vertex nearest to a place, and how far off it is. */
  nearest(p: Vec3): { vertex: number; off: number } {
    const { positions } = this.mesh;
    let [vertex, off] = [-1, Infinity];
    for (let v = 0; v < positions.length / 3; v++) {
      // A vertex no face has is on no edge.
      if (this.round.start[v] === this.round.start[v + 1]) continue;
      const d = (positions[3 * v] - p[0]) ** 2 + (positions[3 * v + 1] - p[1]) ** 2 + (positions[3 * v + 2] - p[2]) ** 2;
      if (d < off) [vertex, off] = [v, d];
    }
    return { vertex, off: Math.sqrt(off) };
  }
}

function fromPath(p: Vec3, points: readonly Vec3[]): number {
  let off = Infinity;
  for (let i = 1; i < points.length; i++) off = Math.min(off, fromSegment(p, points[i - 1], points[i]));
  return off;
}

function fromSegment(p: Vec3, a: Vec3, b: Vec3): number {
  const [d, e] = [b.map((x, k) => x - a[k]), p.map((x, k) => x - a[k])];
  const t = Math.max(0, Math.min(1, (d[0] * e[0] + d[1] * e[1] + d[2] * e[2]) / (d[0] ** 2 + d[1] ** 2 + d[2] ** 2 || 1)));
  return Math.hypot(e[0] - t * d[0], e[1] - t * d[1], e[2] - t * d[2]);
}

/** Both corners that start an edge inside the surface, or the one of a rim. */
export const sidesOf = (edges: Edges, e: number): number[] => {
  const c = edges.corners[edges.start[e]];
  const t = twin(edges, c);
  return t < 0 ? [...edges.corners.subarray(edges.start[e], edges.start[e + 1])] : [c, t];
};

/** What a click on a mesh found: where it goes, whether that is a seam now, and the line of the surface it is, where it is one. */
export interface FoundSeam {
  points: Vec3[];
  cut: boolean;
  line: PatchLine | null;
}

/**
 * What a click does to a part's seams: one picked by hand there is taken back, what else is a seam is closed, and what is none is opened, as
 * a line of the surface where it is one.
 *
 * @param how whatever it is now, it is opened or closed; turned round where absent
 */
export function clickedSeams(list: readonly PickedSeam[], found: FoundSeam, id: string, how?: SeamPath['how']): PickedSeam[] {
  const key = (points: readonly Vec3[]): string => points.map((p) => p.map((x) => x.toFixed(5)).join(' ')).join('|');
  const ways = [key(found.points), key([...found.points].reverse())];
  const same = list.filter((s) => (isPath(s) ? ways.includes(key(s.points)) : found.line !== null && isSameLine(s, found.line)));
  const rest = list.filter((s) => !same.includes(s));
  const was = same[same.length - 1];
  // Said again, it is taken back; said the other way, it is put right.
  if (was && (how === undefined || how === (isPath(was) ? was.how : 'open'))) return rest;
  const wanted = how ?? (found.cut ? 'close' : 'open');
  return [...rest, wanted === 'open' && found.line ? { id, ...found.line } : { id, how: wanted, points: found.points }];
}

const isSameLine = (a: PatchLine, b: PatchLine): boolean =>
  a.patch === b.patch && a.constant === b.constant && Math.abs(a.at - b.at) < 1e-6 && a.from === b.from && a.to === b.to;

/** A path as it came from a request, checked. @throws InputError in one sentence */
export function checkPath(plain: unknown, where: string): SeamPath {
  const { id, how, points } = (plain ?? {}) as Partial<SeamPath>;
  if (typeof id !== 'string' || id.length === 0 || id.length > 60 || (how !== 'open' && how !== 'close'))
    throw new InputError('seam/path', `A seam drawn on ${where} is not described as expected.`);
  const isPlace = (p: unknown): p is Vec3 => Array.isArray(p) && p.length === 3 && p.every((x) => Number.isFinite(x) && Math.abs(x) <= 1e8);
  if (!Array.isArray(points) || points.length < 2 || points.length > LONGEST || !points.every(isPlace))
    throw new InputError('seam/path', `A seam drawn on ${where} goes through 2 to ${LONGEST} places.`);
  return { id, how, points: points.map(([x, y, z]): Vec3 => [x, y, z]) };
}
