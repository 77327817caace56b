import { type Edges, edgeValence } from '../../mesh/connectivity';
import type { PolyMesh } from '../../mesh/polymesh';

/** A piece of surface to be laid flat: triangles over vertices numbered from 0. */
export interface Chart {
  /** Faces of the mesh. */
  faces: readonly number[];
  /** 3 local vertices per triangle. */
  triangles: Uint32Array;
  /** 3 numbers per local vertex, mm. */
  points: Float64Array;
  /** Corners of the mesh that belong to it, and the local vertex of each. */
  corners: Uint32Array;
  local: Uint32Array;
}

/** Cuts pieces out of one mesh. */
export class ChartMaker {
  /** Corner → the first corner it is joined with, while a chart is made; then its local vertex. */
  private readonly joined: Int32Array;
  private readonly inside: Uint8Array;
  /** Face → its first triangle; they come face by face. */
  private readonly firstTriangle: Uint32Array;
  private readonly trianglesOf: Uint32Array;

  constructor(
    private readonly mesh: PolyMesh,
    private readonly edges: Edges,
  ) {
    this.joined = new Int32Array(mesh.faceVert.length);
    const faces = mesh.faceStart.length - 1;
    this.inside = new Uint8Array(faces);
    this.firstTriangle = new Uint32Array(faces + 1);
    for (const f of mesh.triangleFace) this.firstTriangle[f + 1]++;
    for (let f = 0; f < faces; f++) this.firstTriangle[f + 1] += this.firstTriangle[f];
    const next = this.firstTriangle.slice();
    this.trianglesOf = new Uint32Array(mesh.triangleFace.length);
    for (let t = 0; t < mesh.triangleFace.length; t++) this.trianglesOf[next[mesh.triangleFace[t]]++] = t;
  }

  /** How many triangles a face has. */
  trianglesIn = (f: number): number => this.firstTriangle[f + 1] - this.firstTriangle[f];

  private root(c: number): number {
    const { joined } = this;
    let r = c;
    while (joined[r] !== r) {
      joined[r] = joined[joined[r]];
      r = joined[r];
    }
    return r;
  }

  /**
   * The chart of a set of faces: they hang together across edges that are not cut, and nowhere else. Along a cut that ends inside, both
   * sides have vertices of their own.
   */
  make(faces: readonly number[], cut: ArrayLike<number>): Chart {
    const { mesh, edges, joined, inside } = this;
    let count = 0;
    for (const f of faces) {
      inside[f] = 1;
      for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
        joined[c] = c;
        count++;
      }
    }
    for (const f of faces)
      for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
        const e = edges.ofCorner[c];
        if (cut[e] || edgeValence(edges, e) !== 2) continue;
        const s = edges.start[e];
        const d = edges.corners[s] === c ? edges.corners[s + 1] : edges.corners[s];
        // Twins run opposite ways: c starts where d ends.
        if (d < c || !inside[edges.faceOf[d]] || mesh.faceVert[d] === mesh.faceVert[c]) continue;
        joined[this.root(edges.next[d])] = this.root(c);
        joined[this.root(d)] = this.root(edges.next[c]);
      }
    const corners = new Uint32Array(count);
    const roots = new Uint32Array(count);
    let i = 0;
    for (const f of faces)
      for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
        corners[i] = c;
        roots[i++] = this.root(c);
      }
    let vertices = 0;
    const points: number[] = [];
    const local = new Uint32Array(count);
    // Roots first: each gets a number, kept as −1 − number so that it can't be taken for a corner.
    for (i = 0; i < count; i++) {
      const r = roots[i];
      if (joined[r] >= 0) {
        joined[r] = -1 - vertices++;
        const v = 3 * mesh.faceVert[r];
        points.push(mesh.positions[v], mesh.positions[v + 1], mesh.positions[v + 2]);
      }
      local[i] = -1 - joined[r];
    }
    for (i = 0; i < count; i++) joined[corners[i]] = local[i];
    let triangles = 0;
    for (const f of faces) triangles += this.firstTriangle[f + 1] - this.firstTriangle[f];
    const list = new Uint32Array(3 * triangles);
    let at = 0;
    for (const f of faces)
      for (let k = this.firstTriangle[f]; k < this.firstTriangle[f + 1]; k++)
        for (let j = 0; j < 3; j++) list[at++] = joined[mesh.triangles[3 * this.trianglesOf[k] + j]];
    for (const f of faces) inside[f] = 0;
    return { faces, triangles: list, points: Float64Array.from(points), corners, local };
  }
}

/** Neighbours of the vertices of a chart, and its rims. */
export interface Rims {
  /** Closed loops of local vertices, the longest (in vertices) first. */
  loops: number[][];
  /** Euler characteristic; 1 for a disk. */
  euler: number;
}

/**
 * The rims of a chart, or null where it is no surface: an edge with more than two triangles or mixed winding, a rim that touches itself.
 */
export function rimsOf(chart: Chart): Rims | null {
  const { triangles } = chart;
  const vertices = chart.points.length / 3;
  const start = new Uint32Array(vertices + 1);
  for (let i = 0; i < triangles.length; i++) start[triangles[i] + 1]++;
  for (let v = 0; v < vertices; v++) start[v + 1] += start[v];
  const fill = start.slice(0, vertices);
  const to = new Uint32Array(triangles.length);
  for (let i = 0; i < triangles.length; i += 3)
    for (let k = 0; k < 3; k++) {
      const [a, b] = [triangles[i + k], triangles[i + (k === 2 ? 0 : k + 1)]];
      for (let p = start[a]; p < fill[a]; p++) if (to[p] === b) return null;
      to[fill[a]++] = b;
    }
  const has = (a: number, b: number): boolean => {
    for (let p = start[a]; p < start[a + 1]; p++) if (to[p] === b) return true;
    return false;
  };
  const next = new Int32Array(vertices).fill(-1);
  let [inner, rim] = [0, 0];
  for (let a = 0; a < vertices; a++)
    for (let p = start[a]; p < start[a + 1]; p++) {
      const b = to[p];
      if (has(b, a)) inner++;
      else {
        if (next[a] >= 0) return null;
        next[a] = b;
        rim++;
      }
    }
  const loops: number[][] = [];
  const seen = new Uint8Array(vertices);
  for (let first = 0; first < vertices; first++) {
    if (next[first] < 0 || seen[first]) continue;
    const loop: number[] = [];
    for (let v = first; !seen[v]; v = next[v]) {
      if (next[v] < 0) return null;
      seen[v] = 1;
      loop.push(v);
    }
    loops.push(loop);
  }
  loops.sort((a, b) => b.length - a.length);
  return { loops, euler: vertices - (inner / 2 + rim) + triangles.length / 3 };
}

/** The rim of a chart as one loop of local vertices, or null when the chart is not a disk. */
export function diskRim(chart: Chart): number[] | null {
  const rims = rimsOf(chart);
  return rims && rims.loops.length === 1 && rims.euler === 1 ? rims.loops[0] : null;
}

/** Area of a triangle of the chart in space, mm². */
export function areaInSpace(chart: Chart, t: number): number {
  const p = chart.points;
  const a = 3 * chart.triangles[3 * t];
  const b = 3 * chart.triangles[3 * t + 1];
  const c = 3 * chart.triangles[3 * t + 2];
  const ux = p[b] - p[a];
  const uy = p[b + 1] - p[a + 1];
  const uz = p[b + 2] - p[a + 2];
  const vx = p[c] - p[a];
  const vy = p[c + 1] - p[a + 1];
  const vz = p[c + 2] - p[a + 2];
  const [x, y, z] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
  return 0.5 * Math.sqrt(x * x + y * y + z * z);
}

/** Signed area of a triangle laid flat: negative when folded over. */
export function areaLaid(chart: Chart, uv: Float64Array, t: number): number {
  const a = 2 * chart.triangles[3 * t];
  const b = 2 * chart.triangles[3 * t + 1];
  const c = 2 * chart.triangles[3 * t + 2];
  return 0.5 * ((uv[b] - uv[a]) * (uv[c + 1] - uv[a + 1]) - (uv[b + 1] - uv[a + 1]) * (uv[c] - uv[a]));
}

/** Scales a layout so that it covers as much as the surface does. */
export function matchArea(chart: Chart, uv: Float64Array): Float64Array {
  let space = 0;
  let laid = 0;
  for (let t = 0; t < chart.triangles.length / 3; t++) {
    space += areaInSpace(chart, t);
    laid += Math.abs(areaLaid(chart, uv, t));
  }
  const k = laid > 0 ? Math.sqrt(space / laid) : 1;
  return uv.map((x) => x * k);
}
