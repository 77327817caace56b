import TinyQueue from 'tinyqueue';
import { edgeValence } from '../../mesh/connectivity';
import { cornerAngles } from '../../mesh/normals';
import { faceCount, type PolyMesh } from '../../mesh/polymesh';
import type { FaceGraph } from './regions';

/** How islands are weighed against stretch. */
export interface ClusterOptions {
  /** What a mm of seam is worth: the error taken for it, over the root of the surface’s area. Larger: fewer seams, more stretch. */
  worth: number;
  /** Most that a cluster’s normals may spread about a cone, their variance along its axis: what a piece of a sphere is stretched by. */
  most: number;
}

/** Sums over a set of faces: area, area · normal (3), area · normal · normalᵀ (xx yy zz xy xz yz), and squared angle defects inside. */
const SUMS = 11;

/**
 * Puts faces together into clusters that lie flat without much stretch: pairs of neighbours are joined, the one first that costs least
 * for the seam it saves (after Garland et al. 2001), as long as that is worth it. A cluster’s error says how far it is from something
 * that can be unrolled: the normals of a plane, a cylinder or a cone lie on a circle of the unit sphere (Julius et al. 2005), so it is
 * the least eigenvalue of their scatter; what the angle defects of vertices inside add is what a cone of that angle would be stretched.
 *
 * @returns face → cluster, numbered from 0; −1 for faces that were not asked about
 */
export function clusters(mesh: PolyMesh, graph: FaceGraph, faces: readonly number[], options: ClusterOptions): Int32Array {
  const work = new Clustering(mesh, graph, faces, options);
  work.join();
  work.straighten();
  return work.numbered();
}

class Clustering {
  private readonly of: Int32Array;
  private readonly sums: Float64Array;
  /** Cluster → its error, mm². */
  private readonly errors: Float64Array;
  /** Cluster → neighbour → the edges between them. */
  private readonly beside: Map<number, number[]>[] = [];
  private readonly version: Int32Array;
  private readonly parent: Int32Array;
  /** Edges at a vertex whose faces belong to two clusters; a vertex on a seam or a rim has one more that never goes. */
  private readonly borders: Int32Array;
  private readonly defect: Float64Array;
  private readonly lengths: Float64Array;
  private readonly extent: number;
  private readonly near: Int32Array;
  private readonly queue = new TinyQueue<[key: number, a: number, b: number, versions: number]>([], (x, y) => x[0] - y[0]);

  constructor(
    private readonly mesh: PolyMesh,
    private readonly graph: FaceGraph,
    private readonly faces: readonly number[],
    private readonly options: ClusterOptions,
  ) {
    const count = faceCount(mesh);
    this.of = new Int32Array(count).fill(-1);
    this.sums = new Float64Array(SUMS * faces.length);
    this.errors = new Float64Array(faces.length);
    this.version = new Int32Array(faces.length);
    this.parent = Int32Array.from(faces, (_, i) => i);
    const p = mesh.positions;
    let whole = 0;
    for (const [i, f] of faces.entries()) {
      this.of[f] = i;
      this.beside.push(new Map());
      this.sums.set(sumsOfFace(mesh, graph.normals, f), SUMS * i);
      whole += this.sums[SUMS * i];
    }
    this.extent = Math.sqrt(whole) || 1;
    const { edges } = graph;
    const angles = cornerAngles(mesh);
    this.lengths = new Float64Array(edges.count);
    this.borders = new Int32Array(p.length / 3);
    this.near = new Int32Array(p.length / 3);
    this.defect = new Float64Array(p.length / 3).fill(2 * Math.PI);
    for (const f of faces)
      for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
        this.defect[mesh.faceVert[c]] -= angles[c];
        const e = edges.ofCorner[c];
        const [v, w] = [edges.ends[2 * e], edges.ends[2 * e + 1]];
        if (this.lengths[e] === 0)
          this.lengths[e] =
            Math.hypot(p[3 * v] - p[3 * w], p[3 * v + 1] - p[3 * w + 1], p[3 * v + 2] - p[3 * w + 2]) * (graph.dear?.[e] ?? 1);
        const across = this.across(c);
        if (across < 0) {
          // Cut, open or not of this surface: it stays a border for good.
          this.borders[v] += 1 << 16;
          this.borders[w] += 1 << 16;
        } else if (across > f) {
          this.borders[v]++;
          this.borders[w]++;
          const [i, j] = [this.of[f], this.of[across]];
          for (const [a, b] of [
            [i, j],
            [j, i],
          ]) {
            const list = this.beside[a].get(b);
            if (list) list.push(e);
            else this.beside[a].set(b, [e]);
          }
        }
      }
  }

  /** The face across the edge a corner starts, or −1 where it is cut, open or not asked about. */
  private across(c: number): number {
    const { edges, cut } = this.graph;
    const e = edges.ofCorner[c];
    if (cut[e] || edgeValence(edges, e) !== 2) return -1;
    const s = edges.start[e];
    const d = edges.corners[s] === c ? edges.corners[s + 1] : edges.corners[s];
    if (this.mesh.faceVert[d] === this.mesh.faceVert[c]) return -1;
    const f = edges.faceOf[d];
    return this.of[f] < 0 ? -1 : f;
  }

  private root(i: number): number {
    const { parent } = this;
    while (parent[i] !== i) {
      parent[i] = parent[parent[i]];
      i = parent[i];
    }
    return i;
  }

  /** What joining two clusters costs for each mm of seam it saves, over the extent; Infinity where they would be stretched too much. */
  private cost(a: number, b: number, shared: readonly number[]): number {
    const { sums, near, borders, defect, lengths, graph } = this;
    let length = 0;
    let wanted = false;
    let defects = sums[SUMS * a + 10] + sums[SUMS * b + 10];
    for (const e of shared) {
      length += lengths[e];
      if (graph.joined?.[e]) wanted = true;
      near[graph.edges.ends[2 * e]]++;
      near[graph.edges.ends[2 * e + 1]]++;
    }
    for (const e of shared)
      for (let k = 0; k < 2; k++) {
        const v = graph.edges.ends[2 * e + k];
        if (near[v] === 0) continue;
        if (near[v] === borders[v]) defects += defect[v] * defect[v];
        near[v] = 0;
      }
    // What a person closed is joined before anything else, whatever it costs.
    if (wanted) return -length / this.extent;
    const error = this.errorOf(a, b, 1, defects);
    const area = sums[SUMS * a] + sums[SUMS * b];
    if (error > this.options.most * area) return Infinity;
    return Math.max(0, error - this.errors[a] - this.errors[b]) / Math.max(length, 1e-12) / this.extent - (1e-6 * length) / this.extent;
  }

  /** Error of cluster a with (or, sign −1, without) the sums of b. */
  private errorOf(a: number, b: number, sign: number, defects: number, sums = this.sums, of = this.sums): number {
    const [i, j] = [SUMS * a, SUMS * b];
    const m = scratch;
    for (let k = 0; k < 10; k++) m[k] = sums[i + k] + sign * of[j + k];
    const area = m[0];
    if (!(area > 0)) return 0;
    const least = leastEigenvalue(
      m[4] - (m[1] * m[1]) / area,
      m[5] - (m[2] * m[2]) / area,
      m[6] - (m[3] * m[3]) / area,
      m[7] - (m[1] * m[2]) / area,
      m[8] - (m[1] * m[3]) / area,
      m[9] - (m[2] * m[3]) / area,
    );
    return Math.max(0, least) + (area * defects) / (8 * Math.PI * Math.PI);
  }

  private push(a: number, b: number): void {
    const shared = this.beside[a].get(b);
    if (!shared) return;
    const key = this.cost(a, b, shared);
    if (key > this.options.worth) return;
    // To ten places: what rounding makes of alike pairs must not decide which comes first, or the scale of a file would.
    this.queue.push([Math.round(key * 1e10) / 1e10, a, b, this.version[a] + this.version[b]]);
  }

  join(): void {
    for (let a = 0; a < this.beside.length; a++) for (const b of this.beside[a].keys()) if (b > a) this.push(a, b);
    for (let next = this.queue.pop(); next; next = this.queue.pop()) {
      const [, a, b, versions] = next;
      if (this.parent[a] !== a || this.parent[b] !== b) continue;
      if (this.version[a] + this.version[b] !== versions) {
        // One of them has grown since: what joining them costs now is asked again.
        if (this.beside[a].has(b)) this.push(a, b);
        continue;
      }
      this.merge(a, b);
    }
  }

  private merge(first: number, second: number): void {
    const [a, b] = this.beside[first].size >= this.beside[second].size ? [first, second] : [second, first];
    const { sums, borders, defect, beside, graph } = this;
    const shared = beside[a].get(b) as number[];
    let defects = sums[SUMS * a + 10] + sums[SUMS * b + 10];
    for (const e of shared)
      for (let k = 0; k < 2; k++) {
        const v = graph.edges.ends[2 * e + k];
        if (--borders[v] === 0) defects += defect[v] * defect[v];
      }
    this.errors[a] = this.errorOf(a, b, 1, defects);
    for (let k = 0; k < 10; k++) sums[SUMS * a + k] += sums[SUMS * b + k];
    sums[SUMS * a + 10] = defects;
    this.parent[b] = a;
    this.version[a]++;
    beside[a].delete(b);
    const fresh: number[] = [];
    for (const [c, list] of beside[b]) {
      if (c === a) continue;
      beside[c].delete(b);
      const known = beside[a].get(c);
      if (known) {
        for (const e of list) known.push(e);
      } else {
        beside[a].set(c, list);
        beside[c].set(a, list);
        fresh.push(c);
      }
    }
    beside[b].clear();
    // Few neighbours: all are asked at once. Many: those it had before are asked when their turn comes.
    if (beside[a].size <= 48) for (const c of beside[a].keys()) this.push(a, c);
    else for (const c of fresh) this.push(a, c);
  }

  /** Moves faces along the borders to the other side where that leaves less error and seam together. */
  straighten(): void {
    const { of, faces, mesh, graph, sums } = this;
    for (const f of faces) of[f] = this.root(of[f]);
    const single = new Float64Array(SUMS * faces.length);
    for (const [i, f] of faces.entries()) single.set(sumsOfFace(mesh, graph.normals, f), SUMS * i);
    const { worth, most } = this.options;
    for (let pass = 0; pass < 6; pass++) {
      let moves = 0;
      for (const [i, f] of faces.entries()) {
        const mine = of[f];
        const [from, to] = [mesh.faceStart[f], mesh.faceStart[f + 1]];
        let other = -1;
        let [kept, won, changes] = [0, 0, 0];
        let before = -2;
        let held = false;
        for (let c = from; c <= to; c++) {
          const corner = c === to ? from : c;
          const g = this.across(corner);
          const cluster = g < 0 ? -1 : of[g];
          if (c > from && (cluster === mine) !== (before === mine)) changes++;
          before = cluster;
          if (c === to || g < 0) continue;
          if (graph.joined?.[graph.edges.ofCorner[corner]]) held = true;
          const length = this.lengths[graph.edges.ofCorner[corner]];
          if (cluster === mine) kept += length;
          else if (other < 0 || cluster === other) {
            other = cluster;
            won += length;
          }
        }
        // It must not be all of its cluster, nor what holds it together.
        if (held || other < 0 || changes !== 2 || won <= kept * 0.999) continue;
        const [ea, eb] = [this.errors[mine], this.errors[other]];
        const less = this.errorOf(mine, i, -1, sums[SUMS * mine + 10], sums, single);
        const more = this.errorOf(other, i, 1, sums[SUMS * other + 10], sums, single);
        if (more > most * (sums[SUMS * other] + single[SUMS * i])) continue;
        if ((less + more - ea - eb) / this.extent >= worth * (won - kept)) continue;
        of[f] = other;
        this.errors[mine] = less;
        this.errors[other] = more;
        for (let k = 0; k < 10; k++) {
          sums[SUMS * mine + k] -= single[SUMS * i + k];
          sums[SUMS * other + k] += single[SUMS * i + k];
        }
        moves++;
      }
      if (moves === 0) break;
    }
  }

  numbered(): Int32Array {
    const numbers = new Map<number, number>();
    return this.of.map((c) => {
      if (c < 0) return -1;
      let n = numbers.get(c);
      if (n === undefined) {
        n = numbers.size;
        numbers.set(c, n);
      }
      return n;
    });
  }
}

const scratch = new Float64Array(10);

/** The least eigenvalue of a symmetric 3 × 3 matrix (Smith 1961: by the roots of its characteristic polynomial). */
export function leastEigenvalue(xx: number, yy: number, zz: number, xy: number, xz: number, yz: number): number {
  const off = xy * xy + xz * xz + yz * yz;
  const mean = (xx + yy + zz) / 3;
  const spread = (xx - mean) ** 2 + (yy - mean) ** 2 + (zz - mean) ** 2 + 2 * off;
  if (spread <= 0) return mean;
  const p = Math.sqrt(spread / 6);
  const [a, b, c] = [(xx - mean) / p, (yy - mean) / p, (zz - mean) / p];
  const [d, e, f] = [xy / p, xz / p, yz / p];
  const half = (a * (b * c - f * f) - d * (d * c - f * e) + e * (d * f - b * e)) / 2;
  const angle = Math.acos(Math.min(1, Math.max(-1, half))) / 3;
  return mean + 2 * p * Math.cos(angle + (2 * Math.PI) / 3);
}

/** The sums of one face by itself. */
function sumsOfFace(mesh: PolyMesh, normals: Float64Array, f: number): number[] {
  const area = areaOfFace(mesh, f);
  const [x, y, z] = normals.subarray(3 * f, 3 * f + 3);
  return [area, x, y, z, x * x, y * y, z * z, x * y, x * z, y * z, 0].map((v, k) => (k === 0 ? area : area * v));
}

function areaOfFace(mesh: PolyMesh, f: number): number {
  const p = mesh.positions;
  const [from, to] = [mesh.faceStart[f], mesh.faceStart[f + 1]];
  const o = 3 * mesh.faceVert[from];
  let [x, y, z] = [0, 0, 0];
  for (let c = from + 1; c + 1 < to; c++) {
    const [i, j] = [3 * mesh.faceVert[c], 3 * mesh.faceVert[c + 1]];
    const [ux, uy, uz] = [p[i] - p[o], p[i + 1] - p[o + 1], p[i + 2] - p[o + 2]];
    const [vx, vy, vz] = [p[j] - p[o], p[j + 1] - p[o + 1], p[j + 2] - p[o + 2]];
    x += uy * vz - uz * vy;
    y += uz * vx - ux * vz;
    z += ux * vy - uy * vx;
  }
  return Math.sqrt(x * x + y * y + z * z) / 2;
}
