import type { MeshoptSimplifier } from 'meshoptimizer';
import { edgesOf, twin } from './connectivity';
import { areaOf, boundsOf } from './measures';
import { cornerNormals } from './normals';
import { attribute, cornerFaces, makeMesh, type PolyMesh, withAttribute } from './polymesh';

/** Options for {@link simplify}. */
export interface SimplifyOptions {
  /** As few as this, whatever it costs; as few as the error allows when absent. */
  triangles?: number;
  /** The library's own estimate of the distance from the old surface, mm; no bound when absent. */
  errorMm?: number;
  /** 1 for every face that has to stay as it is. */
  keep?: ArrayLike<number>;
}

/**
 * What an attribute that slides counts beside the surface moving: a texture by a millimetre as much as the surface by this many, a normal
 * by a radian as much as the surface by this share of the mesh's size. Outlines and shading are seen before a texture's slide is.
 */
const WEIGHT = { uv: 0.1, normal: 0.02 };
/** What the library may do with a point: nothing, or take it away only along the line it lies on. */
const [STAYS, FOLLOWS] = [1, 2];
/** Cosine of the angle up to which two normals at a point are one. */
const ONE_NORMAL = 1 - 1e-7;

/**
 * A mesh made ready for being simplified, however often: once in records as the library wants them, once simplified to each wish.
 * Triangles go where they matter least (the library's quadric error, Garland & Heckbert 1997, with attributes: Hoppe 1999). Points that
 * stay don't move and keep their layout and normals; seams of a layout, hard edges and borders of named patches are followed.
 */
export class Simplifiable {
  /** Record → a corner it stands for. */
  private readonly cornerOf: Uint32Array;
  private readonly indices: Uint32Array;
  private readonly positions: Float32Array;
  private readonly attributes: Float32Array;
  private readonly weights: number[];
  private readonly locks: Uint8Array;
  private readonly faceOf: Uint32Array;
  private readonly normals: Float64Array;
  /** Corner → its record. */
  private readonly recordOf: Uint32Array;

  constructor(
    private readonly simplifier: typeof MeshoptSimplifier,
    readonly mesh: PolyMesh,
    keep?: ArrayLike<number>,
  ) {
    const { faceVert, triangles } = mesh;
    this.faceOf = cornerFaces(mesh);
    this.normals = cornerNormals(mesh);
    const uv = attribute(mesh, 'uv', 'corner')?.data;
    const patch = attribute(mesh, 'patch', 'face')?.data;
    // Patches that only follow the surface's own edges are kept as well as those are.
    const named = mesh.patches.some((p) => !/^surface \d+$/.test(p));
    const n = this.normals;
    const samePatch = (a: number, b: number): boolean => !patch || patch[this.faceOf[a]] === patch[this.faceOf[b]];
    const samePlace = (a: number, b: number): boolean => !uv || (uv[2 * a] === uv[2 * b] && uv[2 * a + 1] === uv[2 * b + 1]);
    const same = (a: number, b: number): boolean =>
      samePatch(a, b) && samePlace(a, b) && n[3 * a] * n[3 * b] + n[3 * a + 1] * n[3 * b + 1] + n[3 * a + 2] * n[3 * b + 2] >= ONE_NORMAL;
    // Of each point the records it has, as a chain: most have one, those where islands or hard edges meet a few.
    const first = new Int32Array(mesh.positions.length / 3).fill(-1);
    const next = new Int32Array(faceVert.length);
    const cornerOf = new Uint32Array(faceVert.length);
    const locks = new Uint8Array(faceVert.length);
    this.recordOf = new Uint32Array(faceVert.length);
    let count = 0;
    for (let c = 0; c < faceVert.length; c++) {
      let r = first[faceVert[c]];
      while (r >= 0 && !same(cornerOf[r], c)) r = next[r];
      if (r < 0) {
        r = count++;
        cornerOf[r] = c;
        // Seams of the layout and borders of patches that have names are followed; other edges only as far as they are seen.
        for (let o = first[faceVert[c]]; o >= 0; o = next[o])
          if (!samePlace(cornerOf[o], c) || (named && !samePatch(cornerOf[o], c))) locks[r] = locks[o] = FOLLOWS;
        next[r] = first[faceVert[c]];
        first[faceVert[c]] = r;
      }
      this.recordOf[c] = r;
    }
    this.cornerOf = cornerOf.slice(0, count);
    this.indices = Uint32Array.from(triangles, (c) => this.recordOf[c]);
    const { min, max } = boundsOf(mesh);
    const middle = [0, 1, 2].map((k) => (min[k] + max[k]) / 2);
    const size = Math.max(...[0, 1, 2].map((k) => max[k] - min[k]), 1e-9);
    this.positions = new Float32Array(3 * count);
    const width = uv ? 5 : 3;
    this.attributes = new Float32Array(width * count);
    for (let r = 0; r < count; r++) {
      const c = this.cornerOf[r];
      for (let k = 0; k < 3; k++) {
        this.positions[3 * r + k] = mesh.positions[3 * faceVert[c] + k] - middle[k];
        this.attributes[width * r + k] = n[3 * c + k];
      }
      if (uv) this.attributes.set([uv[2 * c], uv[2 * c + 1]], width * r + 3);
    }
    // The library weighs attributes against positions of a mesh of size one.
    const slide = uv ? (WEIGHT.uv * mmPerUv(mesh, uv)) / size : 0;
    this.weights = [WEIGHT.normal, WEIGHT.normal, WEIGHT.normal, ...(uv ? [slide, slide] : [])];
    this.locks = locks.slice(0, count);
    // A point of any face that stays, stays.
    if (keep) for (let c = 0; c < faceVert.length; c++) if (keep[this.faceOf[c]]) this.locks[this.recordOf[c]] = STAYS;
  }

  /** Records of the triangles that are left, three each. */
  to({ triangles, errorMm }: SimplifyOptions): Uint32Array {
    const [left] = this.simplifier.simplifyWithAttributes(
      this.indices,
      this.positions,
      3,
      this.attributes,
      this.weights.length,
      this.weights,
      this.locks,
      3 * (triangles ?? 0),
      errorMm ?? 1e9,
      ['ErrorAbsolute', 'Permissive'],
    );
    return left;
  }

  /** The mesh of what is left: triangles. */
  built(left: Uint32Array): PolyMesh {
    const { mesh } = this;
    const used = new Int32Array(mesh.positions.length / 3).fill(-1);
    const points: number[] = [];
    const faceVert = Uint32Array.from(left, (r) => {
      const v = mesh.faceVert[this.cornerOf[r]];
      if (used[v] < 0) {
        used[v] = points.length / 3;
        points.push(mesh.positions[3 * v], mesh.positions[3 * v + 1], mesh.positions[3 * v + 2]);
      }
      return used[v];
    });
    const faces = left.length / 3;
    const attributes = mesh.attributes.flatMap((a) => {
      const Kind = a.data.constructor as new (n: number) => typeof a.data;
      if (a.domain === 'vertex') {
        const data = new Kind((points.length / 3) * a.size);
        for (let v = 0; v < used.length; v++)
          if (used[v] >= 0) for (let k = 0; k < a.size; k++) data[used[v] * a.size + k] = a.data[v * a.size + k];
        return [{ ...a, data }];
      }
      if (a.domain === 'face') {
        const data = new Kind(faces * a.size);
        for (let f = 0; f < faces; f++)
          for (let k = 0; k < a.size; k++) data[f * a.size + k] = a.data[this.faceOf[this.cornerOf[left[3 * f]]] * a.size + k];
        return [{ ...a, data }];
      }
      // Edges are others now: which of them are hard is seen from the normals.
      if (['hard', 'seam', 'crease'].includes(a.name)) return [];
      const data = new Kind(left.length * a.size);
      for (let c = 0; c < left.length; c++)
        for (let k = 0; k < a.size; k++) data[c * a.size + k] = a.data[this.cornerOf[left[c]] * a.size + k];
      return [{ ...a, data }];
    });
    const made = makeMesh({
      positions: points,
      faceStart: Uint32Array.from({ length: faces + 1 }, (_, f) => 3 * f),
      faceVert,
      patches: mesh.patches,
      attributes,
    });
    return attribute(mesh, 'hard', 'corner') ? withAttribute(made, this.hardOf(made, left)) : made;
  }

  /** An edge is hard where the faces beside it have normals of their own at both its ends. */
  private hardOf(made: PolyMesh, left: Uint32Array) {
    const edges = edgesOf(made);
    const data = new Uint8Array(made.faceVert.length);
    const n = this.normals;
    const differ = (a: number, b: number): boolean => {
      const [i, j] = [3 * this.cornerOf[left[a]], 3 * this.cornerOf[left[b]]];
      return n[i] * n[j] + n[i + 1] * n[j + 1] + n[i + 2] * n[j + 2] < ONE_NORMAL;
    };
    for (let c = 0; c < data.length; c++) {
      const t = twin(edges, c);
      if (t >= 0 && differ(c, edges.next[t]) && differ(edges.next[c], t)) data[c] = 1;
    }
    return { name: 'hard', domain: 'corner' as const, size: 1, data };
  }
}

/** How far the surface goes for one unit of its layout, mm; by areas, so that islands of all sizes count. */
function mmPerUv(mesh: PolyMesh, uv: ArrayLike<number>): number {
  let area = 0;
  for (let t = 0; t < mesh.triangles.length; t += 3) {
    const [a, b, c] = [mesh.triangles[t], mesh.triangles[t + 1], mesh.triangles[t + 2]].map((i) => 2 * i);
    area += Math.abs((uv[b] - uv[a]) * (uv[c + 1] - uv[a + 1]) - (uv[c] - uv[a]) * (uv[b + 1] - uv[a + 1])) / 2;
  }
  return area > 1e-12 ? Math.sqrt(areaOf(mesh) / area) : 0;
}

/** Takes triangles away once, see {@link Simplifiable}. What deviation that leaves is for the caller to measure. */
export function simplify(simplifier: typeof MeshoptSimplifier, mesh: PolyMesh, options: SimplifyOptions): PolyMesh {
  const ready = new Simplifiable(simplifier, mesh, options.keep);
  return ready.built(ready.to(options));
}
