import { edgesOf, edgeValence, Groups } from '../mesh/connectivity';
import { attribute, cornerCount, faceCount, type PolyMesh } from '../mesh/polymesh';
import { UNLAID } from '../mesh/rework';
import { checkpoint, QUIET, type Task } from '../task';
import { areaLaid, type Chart, ChartMaker, matchArea, rimsOf } from './flatten/chart';
import { folds, rimCrosses } from './flatten/check';
import { type Effort, relax } from './flatten/dirichlet';
import { framesOf, patternOf } from './flatten/frames';
import { lscm } from './flatten/lscm';
import { tutte } from './flatten/tutte';
import { unfold } from './flatten/unfold';
import { clusters } from './seams/clusters';
import { type FaceGraph, faceGraph, halve, regions } from './seams/regions';
import { slit } from './seams/slits';
import { StretchSum } from './stretch';
import type { FlatteningMethod } from './words';

/** A mesh cut into islands and laid flat, each at its true size. */
export interface Flattened {
  /** Face → island. */
  island: Int32Array;
  /** Corner → place in its island, mm. */
  flat: Float64Array;
  islands: number;
  /** How each island was laid out. */
  method: FlatteningMethod[];
}

/** Where a surface is cut and how far it may be stretched. */
export interface FlattenOptions {
  /** Faces that turn by more than this are cut apart, degrees. */
  seamAngle: number;
  /** Islands stretched more than this (L²) are cut again. */
  stretchLimit?: number;
  /** What a mm of seam is worth against stretch; larger: fewer and larger islands. */
  worth?: number;
  /** What share of the looks at each face arrives, 0 … 1: seams go where few do. */
  looks?: ArrayLike<number>;
}

/** Few islands first: what a mm of seam is worth where nobody said. */
export const WORTH = 0.05;
/** Most that the normals of an island may spread about a cone: about that of a piece of a sphere a radian and a quarter round its middle (θ⁴/48 = 0.05). */
const MOST = 0.05;
export const STRETCH_LIMIT = 1.05;

/**
 * Lays a mesh flat. Makers of steps bring exact layouts of their own; everything else is cut along its seams and put together into
 * islands that lie flat without much stretch, those with several rims slit, and each laid by what suits it: planes and what can be
 * unrolled exactly, the rest conformal or, where that would fold or overlap, by barycentric mapping, and then relaxed. Islands stretched
 * beyond the limit are cut again.
 */
export function flatten(mesh: PolyMesh, options: FlattenOptions, task: Task = QUIET): Flattened {
  const own = ownLayout(mesh);
  if (own && !own.island.includes(UNLAID)) return own;
  const out: Flattened = own ?? {
    island: new Int32Array(faceCount(mesh)).fill(UNLAID),
    flat: new Float64Array(2 * cornerCount(mesh)),
    islands: 0,
    method: [],
  };
  const left = [...out.island.keys()].filter((f) => out.island[f] === UNLAID);
  const worth = options.worth ?? WORTH;
  const work = new Flattening(mesh, faceGraph(mesh, options.seamAngle, options.looks), options.stretchLimit ?? STRETCH_LIMIT);
  const waiting = work.cluster(left, worth, MOST * Math.min(4, Math.max(1, worth / WORTH)));
  const all = left.length;
  let settled = 0;
  while (waiting.length > 0) {
    checkpoint(task);
    const faces = waiting.pop() as number[];
    const laid = work.layOut(faces);
    if (!laid) {
      waiting.push(...work.divided(faces));
      continue;
    }
    for (const f of faces) out.island[f] = out.islands;
    const { corners, local } = laid.chart;
    for (let i = 0; i < corners.length; i++) {
      out.flat[2 * corners[i]] = laid.uv[2 * local[i]];
      out.flat[2 * corners[i] + 1] = laid.uv[2 * local[i] + 1];
    }
    out.islands++;
    out.method.push(laid.method);
    settled += faces.length;
    task.progress(settled / all, 'laying islands flat');
  }
  return out;
}

interface Laid {
  chart: Chart;
  uv: Float64Array;
  method: Flattened['method'][number];
}

/** A mesh being cut and laid flat. */
class Flattening {
  private readonly maker: ChartMaker;
  /** Seams, borders between islands, and slits within them. */
  private readonly cut: Uint8Array;

  constructor(
    private readonly mesh: PolyMesh,
    private readonly graph: FaceGraph,
    private readonly limit: number,
  ) {
    this.maker = new ChartMaker(mesh, graph.edges);
    this.cut = graph.cut;
  }

  /** Faces put together into connected islands-to-be; the edges between them are cut. */
  cluster(faces: readonly number[], worth: number, most: number): number[][] {
    const { mesh, graph } = this;
    const of = clusters(mesh, graph, faces, { worth, most });
    this.cutBetween(faces, of);
    return regions(mesh, graph, faces);
  }

  private cutBetween(faces: readonly number[], of: ArrayLike<number>): void {
    const { mesh, graph } = this;
    const { edges, cut } = graph;
    for (const f of faces)
      for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
        const e = edges.ofCorner[c];
        if (cut[e] || edgeValence(edges, e) !== 2) continue;
        const s = edges.start[e];
        const d = edges.corners[s] === c ? edges.corners[s + 1] : edges.corners[s];
        if (of[edges.faceOf[d]] !== of[f]) cut[e] = 1;
      }
  }

  /** An island that can’t be laid as it is, in smaller ones. */
  divided(faces: readonly number[]): number[][] {
    let [worth, most] = [WORTH / 4, MOST / 4];
    for (let tries = 0; tries < 3; tries++) {
      const finer = this.cluster(faces, worth, most);
      if (finer.length > 1) return finer;
      [worth, most] = [worth / 4, most / 4];
    }
    const halves = halve(this.mesh, this.graph, faces);
    const of = new Int32Array(faceCount(this.mesh));
    for (const f of halves[0]) of[f] = 1;
    this.cutBetween(faces, of);
    return halves.flatMap((half) => regions(this.mesh, this.graph, half));
  }

  /** Whether a person closed an edge inside it: it may stretch as it has to. */
  private wanted({ corners }: Chart): boolean {
    const { joined, edges } = this.graph;
    return joined !== null && corners.some((c) => joined[edges.ofCorner[c]] === 1 && this.cut[edges.ofCorner[c]] === 0);
  }

  /** One region as an island, or null when it has to be cut first. A single face is always laid. */
  layOut(faces: readonly number[]): Laid | null {
    const { graph, maker, limit } = this;
    let chart = maker.make(faces, this.cut);
    const plane = planar(chart, graph, faces);
    if (plane) {
      // Along a cut that ends within a plane both sides lie together: it is none.
      const whole = plane && folds(chart, plane) === 0 && isSimplePlane(chart, plane);
      if (whole) return { chart, uv: plane, method: 'plane' };
    }
    let rims = rimsOf(chart);
    for (let tries = 0; rims && rims.loops.length > 1 && tries < 200; tries++) {
      const path = slit(graph.edges, chart, rims, graph);
      if (path.length === 0) break;
      for (const e of path) this.cut[e] = 1;
      chart = maker.make(faces, this.cut);
      rims = rimsOf(chart);
    }
    const single = faces.length === 1;
    const rim = rims && rims.loops.length === 1 && rims.euler === 1 ? rims.loops[0] : null;
    if (!rim) return single ? { chart, uv: plane ?? new Float64Array((2 * chart.points.length) / 3), method: 'plane' } : null;
    const frames = framesOf(chart);
    const exact = unfold(chart, frames);
    if (exact && !rimCrosses(rim, exact)) return { chart, uv: exact, method: 'exact' };
    const pattern = patternOf(chart);
    const fine = (uv: Float64Array): boolean => folds(chart, uv, frames) === 0 && !rimCrosses(rim, uv);
    let uv = lscm(chart, rim, frames, pattern);
    let method: Laid['method'] = 'conformal';
    if (!uv || folds(chart, uv, frames) > 0) {
      uv = tutte(chart, rim, pattern);
      method = 'barycentric';
      if (!uv || folds(chart, uv, frames) > 0) return single && uv ? { chart, uv, method } : null;
    }
    const eased = relax(chart, uv, effortFor(method, chart.points.length / 3), frames, pattern);
    if (eased.after < eased.before) uv = eased.uv;
    uv = matchArea(chart, uv);
    if (single || (fine(uv) && (this.wanted(chart) || stretchOf(chart, uv) <= limit))) return { chart, uv, method };
    return null;
  }
}

/**
 * How long a layout is relaxed: a conformal one is nearly there, a barycentric one far off. A step on many vertices takes seconds, and what
 * is divided so finely is hardly stretched within a triangle.
 */
const effortFor = (method: Laid['method'], vertices: number): Effort =>
  method === 'conformal'
    ? { steps: Math.max(1, Math.min(8, Math.round(4000 / vertices))), least: 2e-4 }
    : { steps: Math.max(6, Math.min(25, Math.round(40_000 / vertices))), least: 2e-4 };

function stretchOf(chart: Chart, uv: Float64Array): number {
  const sum = new StretchSum();
  for (let t = 0; t < chart.triangles.length; t += 3) {
    const v = [chart.triangles[t], chart.triangles[t + 1], chart.triangles[t + 2]];
    sum.add(
      v.flatMap((i) => [chart.points[3 * i], chart.points[3 * i + 1], chart.points[3 * i + 2]]),
      v.flatMap((i) => [uv[2 * i], uv[2 * i + 1]]),
    );
  }
  return sum.l2;
}

/** The chart projected on its plane when all its faces share one (within 0.06°), seen from outside. */
function planar(chart: Chart, graph: FaceGraph, faces: readonly number[]): Float64Array | null {
  const { normals } = graph;
  const f0 = 3 * faces[0];
  const n = [normals[f0], normals[f0 + 1], normals[f0 + 2]];
  for (const f of faces) if (n[0] * normals[3 * f] + n[1] * normals[3 * f + 1] + n[2] * normals[3 * f + 2] < 1 - 5e-7) return null;
  const helper = Math.abs(n[1]) < 0.9 ? [0, 1, 0] : [0, 0, -1];
  const u = [helper[1] * n[2] - helper[2] * n[1], helper[2] * n[0] - helper[0] * n[2], helper[0] * n[1] - helper[1] * n[0]];
  const l = Math.hypot(u[0], u[1], u[2]) || 1;
  for (let k = 0; k < 3; k++) u[k] /= l;
  const v = [n[1] * u[2] - n[2] * u[1], n[2] * u[0] - n[0] * u[2], n[0] * u[1] - n[1] * u[0]];
  const count = chart.points.length / 3;
  const uv = new Float64Array(2 * count);
  for (let i = 0; i < count; i++)
    for (let k = 0; k < 3; k++) {
      uv[2 * i] += chart.points[3 * i + k] * u[k];
      uv[2 * i + 1] += chart.points[3 * i + k] * v[k];
    }
  return uv;
}

/** A flat region that is no disk (a plate with holes) overlaps only if its triangles do: their areas then exceed the union. */
function isSimplePlane(chart: Chart, uv: Float64Array): boolean {
  const directed = new Set<string>();
  for (let t = 0; t < chart.triangles.length / 3; t++) {
    if (areaLaid(chart, uv, t) <= 0) return false;
    for (let k = 0; k < 3; k++) {
      const key = `${chart.triangles[3 * t + k]}>${chart.triangles[3 * t + ((k + 1) % 3)]}`;
      if (directed.has(key)) return false;
      directed.add(key);
    }
  }
  return true;
}

/**
 * The layout a maker brought with its mesh, its islands cut further along picked seams and the borders of weighted regions:
 * faces stay together where they lie side by side in it and no seam is between them. Islands on both sides of an edge that a person closed
 * are left to be laid.
 */
function ownLayout(mesh: PolyMesh): Flattened | null {
  const chart = attribute(mesh, 'chart', 'face')?.data;
  const flat = attribute(mesh, 'flat', 'corner')?.data;
  if (!chart || !flat) return null;
  const closed = attribute(mesh, 'joined', 'corner')?.data;
  const seam = attribute(mesh, 'seam', 'corner')?.data;
  const region = attribute(mesh, 'region', 'face')?.data;
  const whole = (island: Int32Array): Flattened => {
    const islands = island.reduce((n, c) => Math.max(n, c + 1), 0);
    return { island, flat: Float64Array.from(flat), islands, method: new Array(islands).fill('exact') };
  };
  // A surface that steps changed may have lost some islands and have others cut in two: they are counted anew.
  const left = new Set(chart);
  const changed = left.has(UNLAID) || left.size !== 1 + Math.max(UNLAID, ...left);
  if (!seam && !region && !closed && !changed) return whole(Int32Array.from(chart));
  const edges = edgesOf(mesh);
  const groups = new Groups(faceCount(mesh));
  const wanted: number[] = [];
  for (let e = 0; e < edges.count; e++) {
    if (edgeValence(edges, e) !== 2) continue;
    const [a, b] = [edges.corners[edges.start[e]], edges.corners[edges.start[e] + 1]];
    const [f, g] = [edges.faceOf[a], edges.faceOf[b]];
    if (closed?.[a] || closed?.[b]) wanted.push(f, g);
    if (chart[f] !== chart[g] || seam?.[a] || seam?.[b] || (region && region[f] !== region[g])) continue;
    const [a1, b1] = [edges.next[a], edges.next[b]];
    // Twins run opposite ways: a starts where b ends.
    const beside = (c: number, d: number) => Math.abs(flat[2 * c] - flat[2 * d]) + Math.abs(flat[2 * c + 1] - flat[2 * d + 1]) < 1e-6;
    if (chart[f] === UNLAID || (beside(a, b1) && beside(a1, b))) groups.join(f, g);
  }
  // Islands that a person wants joined are laid anew, together.
  const released = new Set(wanted.map((f) => groups.find(f)));
  const numbers = new Map<number, number>();
  return whole(
    Int32Array.from(chart, (c, f) => {
      const root = groups.find(f);
      if (c === UNLAID || released.has(root)) return UNLAID;
      if (!numbers.has(root)) numbers.set(root, numbers.size);
      return numbers.get(root) as number;
    }),
  );
}
