import { edgeValence } from '../../mesh/connectivity';
import { faceCount, type PolyMesh } from '../../mesh/polymesh';
import { clusters } from '../seams/clusters';
import { type FaceGraph, halve, regions } from '../seams/regions';
import { slit } from '../seams/slits';
import { StretchSum } from '../stretch';
import type { FlatteningMethod } from '../words';
import { areaLaid, type Chart, ChartMaker, matchArea, rimsOf } from './chart';
import { folds, rimCrosses } from './check';
import { type Effort, relax } from './dirichlet';
import { framesOf, patternOf } from './frames';
import { lscm } from './lscm';
import { tutte } from './tutte';
import { unfold } from './unfold';

/** Few islands first: what a mm of seam is worth where nobody said. */
export const WORTH = 0.05;
/** Most that the normals of an island may spread about a cone: about that of a piece of a sphere a radian and a quarter round its middle (θ⁴/48 = 0.05). */
export const MOST = 0.05;

/** An island laid flat. */
export interface Laid {
  chart: Chart;
  uv: Float64Array;
  method: FlatteningMethod;
}

/** A mesh being cut and laid flat. */
export class Flattening {
  readonly maker: ChartMaker;
  /** Seams, borders between islands, and slits within them. */
  readonly cut: Uint8Array;

  constructor(
    readonly mesh: PolyMesh,
    readonly graph: FaceGraph,
    private readonly limit: number,
  ) {
    this.maker = new ChartMaker(mesh, graph.edges);
    this.cut = graph.cut;
  }

  /** Sets of those faces that hang together. */
  regions(faces: readonly number[]): number[][] {
    return regions(this.mesh, this.graph, faces);
  }

  /** Faces put together into connected islands-to-be; the edges between them are cut. */
  cluster(faces: readonly number[], worth: number, most: number): number[][] {
    const { mesh, graph } = this;
    const of = clusters(mesh, graph, faces, { worth, most });
    this.cutBetween(faces, of);
    return regions(mesh, graph, faces);
  }

  /** Cuts every edge between faces whose numbers differ; what is not among `faces` counts by its number too. */
  cutBetween(faces: readonly number[], of: ArrayLike<number>): void {
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

  /** Faces as one chart with a single rim, slit where they have several; the rim is null where that can’t be. */
  disk(faces: readonly number[], whole?: Chart): { chart: Chart; rim: number[] | null } {
    const { graph, maker } = this;
    let chart = whole ?? maker.make(faces, this.cut);
    let rims = rimsOf(chart);
    for (let tries = 0; rims && rims.loops.length > 1 && tries < 200; tries++) {
      const path = slit(graph.edges, chart, rims, graph);
      if (path.length === 0) break;
      for (const e of path) this.cut[e] = 1;
      chart = maker.make(faces, this.cut);
      rims = rimsOf(chart);
    }
    return { chart, rim: rims && rims.loops.length === 1 && rims.euler === 1 ? rims.loops[0] : null };
  }

  /**
   * One region as an island, or null when it has to be cut first. A single face is always laid, unless somebody chose how.
   *
   * @param chosen it is laid so, however much it is stretched then
   */
  layOut(faces: readonly number[], chosen?: 'even' | 'angles'): Laid | null {
    const { graph, limit } = this;
    const flat = this.maker.make(faces, this.cut);
    const plane = planar(flat, graph, faces);
    // Along a cut that ends within a plane both sides lie together: it is none.
    if (plane && folds(flat, plane) === 0 && isSimplePlane(flat, plane)) return { chart: flat, uv: plane, method: chosen ?? 'plane' };
    const { chart, rim } = this.disk(faces, flat);
    const single = faces.length === 1 && !chosen;
    if (!rim)
      return single ? { chart, uv: planar(chart, graph, faces) ?? new Float64Array((2 * chart.points.length) / 3), method: 'plane' } : null;
    const frames = framesOf(chart);
    const exact = unfold(chart, frames);
    if (exact && !rimCrosses(rim, exact)) return { chart, uv: exact, method: chosen ?? 'exact' };
    const pattern = patternOf(chart);
    const fine = (uv: Float64Array): boolean => folds(chart, uv, frames) === 0 && !rimCrosses(rim, uv);
    let uv = lscm(chart, rim, frames, pattern);
    if (chosen === 'angles') {
      const own = uv && matchArea(chart, uv);
      return own && fine(own) ? { chart, uv: own, method: chosen } : null;
    }
    let method: Laid['method'] = 'conformal';
    if (!uv || folds(chart, uv, frames) > 0) {
      uv = tutte(chart, rim, pattern);
      method = 'barycentric';
      if (!uv || folds(chart, uv, frames) > 0) return single && uv ? { chart, uv, method } : null;
    }
    const effort = chosen ? LEAST_STRETCH : effortFor(method, chart.points.length / 3);
    const eased = relax(chart, uv, effort, frames, pattern);
    if (eased.after < eased.before) uv = eased.uv;
    uv = matchArea(chart, uv);
    if (chosen) return fine(uv) ? { chart, uv, method: chosen } : null;
    if (single || (fine(uv) && (this.wanted(chart) || stretchOf(chart, uv) <= limit))) return { chart, uv, method };
    return null;
  }
}

/** What somebody asks for by name may take its time. */
const LEAST_STRETCH: Effort = { steps: 60, least: 1e-6 };

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
  sum.addChart(chart, uv);
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
