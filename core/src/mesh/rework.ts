import { type Attribute, makeMesh, type PolyMesh } from './polymesh';

/** A layout that is left to the flattening: the `chart` of a face that has none of its own. */
export const UNLAID = -1;

/** A corner of a new face. */
export interface NewCorner {
  vertex: number;
  /** The corner of the old mesh its values come from, or several with their shares. None for a face with values of its own. */
  from?: number | readonly (readonly [corner: number, share: number])[];
  /** The old corner whose edge the edge it starts is: `hard`, `seam` and `crease` are taken from there. */
  edge?: number;
  /** The edge it starts is hard whatever it was. */
  hard?: boolean;
  /** Coordinates in a patch of its own. */
  uv?: readonly [number, number];
}

/** Values that belong to edges and live on the corner that starts them. */
const OF_EDGES = new Set(['hard', 'seam', 'crease']);

/**
 * Builds a mesh out of another: new faces out of old and new vertices, each saying which old face it comes from and what its
 * corners' values are mixed from. Patch coordinates and a maker's own layout are linear in the plane of a face, so a face
 * that is only trimmed stays exactly where it lay; a face with a patch of its own is left to the flattening.
 */
export class Rework {
  private readonly positions: number[];
  private readonly faceStart = [0];
  private readonly faceVert: number[] = [];
  private readonly faceFrom: number[] = [];
  private readonly patchOf: number[] = [];
  private readonly mixStart = [0];
  private readonly mixCorner: number[] = [];
  private readonly mixShare: number[] = [];
  private readonly edgeFrom: number[] = [];
  private readonly hard: number[] = [];
  private readonly uv: number[] = [];
  private readonly patches: string[];
  private readonly patchIndex: Map<string, number>;

  /** @param source whose vertices are kept, under their numbers */
  constructor(readonly source: PolyMesh) {
    this.positions = Array.from(source.positions);
    this.patches = [...source.patches];
    this.patchIndex = new Map(this.patches.map((p, i) => [p, i]));
  }

  vertex(x: number, y: number, z: number): number {
    this.positions.push(x, y, z);
    return this.positions.length / 3 - 1;
  }
  move(v: number, x: number, y: number, z: number): void {
    this.positions[3 * v] = x;
    this.positions[3 * v + 1] = y;
    this.positions[3 * v + 2] = z;
  }
  position(v: number): [number, number, number] {
    return [this.positions[3 * v], this.positions[3 * v + 1], this.positions[3 * v + 2]];
  }

  /** @param from the old face whose values it takes; @param patch a patch of its own, with `uv` at its corners */
  face(corners: readonly NewCorner[], from: number, patch?: string): number {
    for (const c of corners) {
      this.faceVert.push(c.vertex);
      if (typeof c.from === 'number') {
        this.mixCorner.push(c.from);
        this.mixShare.push(1);
      } else
        for (const [corner, share] of c.from ?? []) {
          this.mixCorner.push(corner);
          this.mixShare.push(share);
        }
      this.mixStart.push(this.mixCorner.length);
      this.edgeFrom.push(c.edge ?? -1);
      this.hard.push(c.hard === undefined ? -1 : c.hard ? 1 : 0);
      this.uv.push(c.uv?.[0] ?? NaN, c.uv?.[1] ?? NaN);
    }
    this.faceStart.push(this.faceVert.length);
    this.patchOf.push(patch === undefined ? -1 : this.patchNumber(patch));
    return this.faceFrom.push(from) - 1;
  }
  /** An old face as it is, possibly on other vertices. */
  keep(f: number, vertexOf: (corner: number) => number = (c) => this.source.faceVert[c]): number {
    const { faceStart } = this.source;
    const corners: NewCorner[] = [];
    for (let c = faceStart[f]; c < faceStart[f + 1]; c++) corners.push({ vertex: vertexOf(c), from: c, edge: c });
    return this.face(corners, f);
  }

  private patchNumber(name: string): number {
    const known = this.patchIndex.get(name);
    if (known !== undefined) return known;
    this.patchIndex.set(name, this.patches.length);
    return this.patches.push(name) - 1;
  }

  /** The new mesh, without vertices nobody uses. `origin[f]` is the old face that face f comes from. */
  build(): { mesh: PolyMesh; origin: Uint32Array } {
    const used = new Int32Array(this.positions.length / 3).fill(-1);
    const kept: number[] = [];
    for (const v of this.faceVert) if (used[v] < 0) used[v] = kept.push(v) - 1;
    const positions = new Float64Array(3 * kept.length);
    for (const [i, v] of kept.entries()) for (let k = 0; k < 3; k++) positions[3 * i + k] = this.positions[3 * v + k];
    const attributes = this.source.attributes.flatMap((a) => this.carried(a, kept));
    if (this.hard.some((h) => h > 0) && !this.source.attributes.some((a) => a.name === 'hard'))
      attributes.push({ name: 'hard', domain: 'corner', size: 1, data: Uint8Array.from(this.hard, (h) => (h > 0 ? 1 : 0)) });
    const mesh = makeMesh({
      positions,
      faceStart: this.faceStart,
      faceVert: this.faceVert.map((v) => used[v]),
      patches: this.patches,
      attributes,
    });
    return { mesh, origin: Uint32Array.from(this.faceFrom) };
  }

  private carried(a: Attribute, kept: readonly number[]): Attribute[] {
    const Kind = a.data.constructor as new (n: number) => Attribute['data'];
    if (a.domain === 'vertex') {
      const data = new Kind(kept.length * a.size);
      const old = a.data.length / a.size;
      for (const [i, v] of kept.entries()) if (v < old) for (let k = 0; k < a.size; k++) data[i * a.size + k] = a.data[v * a.size + k];
      return [{ ...a, data }];
    }
    if (a.domain === 'face') {
      const data = new Kind(this.faceFrom.length * a.size);
      for (let f = 0; f < this.faceFrom.length; f++)
        for (let k = 0; k < a.size; k++) data[f * a.size + k] = a.data[this.faceFrom[f] * a.size + k];
      if (a.name === 'patch') for (let f = 0; f < this.patchOf.length; f++) if (this.patchOf[f] >= 0) data[f] = this.patchOf[f];
      if (a.name === 'chart') for (let f = 0; f < this.patchOf.length; f++) if (this.patchOf[f] >= 0) data[f] = UNLAID;
      return [{ ...a, data }];
    }
    // Directions that came with a file no longer fit a changed surface.
    if (a.name === 'normal') return [];
    const data = new Kind(this.faceVert.length * a.size);
    if (OF_EDGES.has(a.name)) {
      for (let c = 0; c < data.length; c++) {
        if (this.edgeFrom[c] >= 0) data[c] = a.data[this.edgeFrom[c]];
        if (a.name === 'hard' && this.hard[c] >= 0) data[c] = this.hard[c];
      }
      return [{ ...a, data }];
    }
    for (let c = 0; c < this.faceVert.length; c++)
      for (let k = 0; k < a.size; k++) {
        let sum = 0;
        for (let i = this.mixStart[c]; i < this.mixStart[c + 1]; i++) sum += this.mixShare[i] * a.data[this.mixCorner[i] * a.size + k];
        data[c * a.size + k] = sum;
      }
    if (a.name === 'patchUv')
      for (let c = 0; c < this.faceVert.length; c++)
        if (!Number.isNaN(this.uv[2 * c])) for (let k = 0; k < 2; k++) data[2 * c + k] = this.uv[2 * c + k];
    return [{ ...a, data }];
  }
}

/**
 * What a place in the plane of a face mixes its values from: the corners of the triangle it lies in, or of the one it is least
 * outside of.
 *
 * @param trianglesOf triangles of the face
 */
export function mixAt(mesh: PolyMesh, trianglesOf: Iterable<number>, x: number, y: number, z: number): [number, number][] {
  const p = mesh.positions;
  let best: [number, number][] = [];
  let least = -Infinity;
  for (const t of trianglesOf) {
    const c = [mesh.triangles[3 * t], mesh.triangles[3 * t + 1], mesh.triangles[3 * t + 2]];
    const [a, b, d] = c.map((i) => 3 * mesh.faceVert[i]);
    const [ux, uy, uz] = [p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]];
    const [vx, vy, vz] = [p[d] - p[a], p[d + 1] - p[a + 1], p[d + 2] - p[a + 2]];
    const [wx, wy, wz] = [x - p[a], y - p[a + 1], z - p[a + 2]];
    const uu = ux * ux + uy * uy + uz * uz;
    const uv = ux * vx + uy * vy + uz * vz;
    const vv = vx * vx + vy * vy + vz * vz;
    const wu = wx * ux + wy * uy + wz * uz;
    const wv = wx * vx + wy * vy + wz * vz;
    const det = uu * vv - uv * uv;
    if (!(det > 1e-18 * uu * vv)) continue;
    const s = (vv * wu - uv * wv) / det;
    const r = (uu * wv - uv * wu) / det;
    const inside = Math.min(s, r, 1 - s - r);
    if (inside > least) {
      least = inside;
      best = [
        [c[0], 1 - s - r],
        [c[1], s],
        [c[2], r],
      ];
      if (inside >= 0) break;
    }
  }
  return best.length > 0 ? best : [[mesh.faceStart[mesh.triangleFace[firstOf(trianglesOf)]], 1]];
}
function firstOf(list: Iterable<number>): number {
  for (const x of list) return x;
  return 0;
}

/** Face → its triangles, which follow each other: first triangle of each face, and one past the last at the end. */
export function triangleStarts(mesh: PolyMesh): Uint32Array {
  const faces = mesh.faceStart.length - 1;
  const out = new Uint32Array(faces + 1);
  for (let f = 0; f < faces; f++) out[f + 1] = out[f] + Math.max(0, mesh.faceStart[f + 1] - mesh.faceStart[f] - 2);
  return out;
}

/** Whole numbers from one to below another. */
export function* range(from: number, to: number): Iterable<number> {
  for (let i = from; i < to; i++) yield i;
}
