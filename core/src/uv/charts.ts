import { edgesOf, edgeValence, Groups } from '../mesh/connectivity';
import { attribute, cornerCount, faceCount, type PolyMesh, triangleCount } from '../mesh/polymesh';
import { UNLAID } from '../mesh/rework';
import { checkpoint, QUIET, type Task } from '../task';
import { areaLaid, type Chart, chartOf, diskRim } from './flatten/chart';
import { folds, rimCrosses } from './flatten/check';
import { lscm } from './flatten/lscm';
import { tutte } from './flatten/tutte';
import { type FaceGraph, faceGraph, halve, regions } from './seams/regions';
import { StretchSum } from './stretch';

/** A mesh cut into islands and laid flat, each at its true size. */
export interface Flattened {
  /** Face → island. */
  island: Int32Array;
  /** Corner → place in its island, mm. */
  flat: Float64Array;
  islands: number;
  /** How each island was laid out. */
  method: ('exact' | 'plane' | 'conformal' | 'barycentric')[];
}

/** Where a surface is cut and how far it may be stretched. */
export interface FlattenOptions {
  /** Faces that turn by more than this are cut apart, degrees. */
  seamAngle: number;
  /** Islands stretched more than this (L²) are cut again. */
  stretchLimit?: number;
}

/**
 * Lays a mesh flat. Makers of steps bring exact layouts of their own; everything else is cut along its seams, made into
 * disks and flattened: planes exactly, the rest least-squares conformal, and by barycentric mapping where that would fold or
 * overlap. Islands stretched beyond the limit are cut in two and tried again.
 */
export function flatten(mesh: PolyMesh, options: FlattenOptions, task: Task = QUIET): Flattened {
  const own = ownLayout(mesh);
  if (own && !own.island.includes(UNLAID)) return own;
  const graph = faceGraph(mesh, options.seamAngle);
  const trianglesOfFace: number[][] = Array.from({ length: faceCount(mesh) }, () => []);
  for (let t = 0; t < triangleCount(mesh); t++) trianglesOfFace[mesh.triangleFace[t]].push(t);
  const out: Flattened = own ?? {
    island: new Int32Array(faceCount(mesh)).fill(UNLAID),
    flat: new Float64Array(2 * cornerCount(mesh)),
    islands: 0,
    method: [],
  };
  const left = [...out.island.keys()].filter((f) => out.island[f] === UNLAID);
  const waiting = regions(mesh, graph, left);
  const all = left.length;
  let settled = 0;
  while (waiting.length > 0) {
    checkpoint(task);
    const faces = waiting.pop() as number[];
    const laid = layOut(mesh, graph, faces, trianglesOfFace, options.stretchLimit ?? 1.3);
    if (!laid) {
      for (const half of halve(mesh, graph, faces)) waiting.push(...regions(mesh, graph, half));
      continue;
    }
    for (const f of faces) {
      out.island[f] = out.islands;
      for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
        const v = laid.chart.local.get(c) as number;
        out.flat[2 * c] = laid.uv[2 * v];
        out.flat[2 * c + 1] = laid.uv[2 * v + 1];
      }
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
  method: 'plane' | 'conformal' | 'barycentric';
}

/** One region as an island, or null when it has to be cut first. A single face is always laid. */
function layOut(mesh: PolyMesh, graph: FaceGraph, faces: number[], trianglesOfFace: number[][], limit: number): Laid | null {
  const chart = chartOf(mesh, faces, trianglesOfFace);
  const plane = planar(chart, graph, faces);
  if (plane && folds(chart, plane) === 0) {
    const rim = diskRim(chart);
    // A flat island may have holes; only its rims must not cross, which a plane's can't.
    if (rim || isSimplePlane(chart, plane)) return { chart, uv: plane, method: 'plane' };
  }
  const rim = diskRim(chart);
  if (!rim) return faces.length > 1 ? null : { chart, uv: plane ?? new Float64Array((2 * chart.points.length) / 3), method: 'plane' };
  const conformal = lscm(chart, rim);
  if (conformal && folds(chart, conformal) === 0 && !rimCrosses(rim, conformal)) {
    if (faces.length === 1 || stretchOf(chart, conformal) <= limit) return { chart, uv: conformal, method: 'conformal' };
  }
  if (faces.length > 1 && faces.length < 12) return null;
  const barycentric = tutte(chart, rim);
  const sound = folds(chart, barycentric) === 0;
  if ((sound && stretchOf(chart, barycentric) <= limit) || faces.length === 1) return { chart, uv: barycentric, method: 'barycentric' };
  return null;
}

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
 * faces stay together where they lie side by side in it and no seam is between them.
 */
function ownLayout(mesh: PolyMesh): Flattened | null {
  const chart = attribute(mesh, 'chart', 'face')?.data;
  const flat = attribute(mesh, 'flat', 'corner')?.data;
  if (!chart || !flat) return null;
  const seam = attribute(mesh, 'seam', 'corner')?.data;
  const region = attribute(mesh, 'region', 'face')?.data;
  const whole = (island: Int32Array): Flattened => {
    const islands = island.reduce((n, c) => Math.max(n, c + 1), 0);
    return { island, flat: Float64Array.from(flat), islands, method: new Array(islands).fill('exact') };
  };
  // A surface that steps changed may have lost some islands and have others cut in two: they are counted anew.
  const left = new Set(chart);
  const changed = left.has(UNLAID) || left.size !== 1 + Math.max(UNLAID, ...left);
  if (!seam && !region && !changed) return whole(Int32Array.from(chart));
  const edges = edgesOf(mesh);
  const groups = new Groups(faceCount(mesh));
  for (let e = 0; e < edges.count; e++) {
    if (edgeValence(edges, e) !== 2) continue;
    const [a, b] = [edges.corners[edges.start[e]], edges.corners[edges.start[e] + 1]];
    const [f, g] = [edges.faceOf[a], edges.faceOf[b]];
    if (chart[f] !== chart[g] || seam?.[a] || seam?.[b] || (region && region[f] !== region[g])) continue;
    const [a1, b1] = [edges.next[a], edges.next[b]];
    // Twins run opposite ways: a starts where b ends.
    const beside = (c: number, d: number) => Math.abs(flat[2 * c] - flat[2 * d]) + Math.abs(flat[2 * c + 1] - flat[2 * d + 1]) < 1e-6;
    if (chart[f] === UNLAID || (beside(a, b1) && beside(a1, b))) groups.join(f, g);
  }
  const numbers = new Map<number, number>();
  return whole(
    Int32Array.from(chart, (c, f) => {
      if (c === UNLAID) return UNLAID;
      const root = groups.find(f);
      if (!numbers.has(root)) numbers.set(root, numbers.size);
      return numbers.get(root) as number;
    }),
  );
}
