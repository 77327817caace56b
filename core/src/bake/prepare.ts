import { type Mat4, normalMatrix, transformPoint } from '../maths/mat4';
import { cageNormals, cornerNormals } from '../mesh/normals';
import { attribute, type PolyMesh, triangleCount } from '../mesh/polymesh';
import { soupOf } from '../mesh/soup';
import { mikkTangents } from '../mesh/tangents';
import { type Allocate, buildTree, PRIVATE, type RayTree } from '../rays/tree';
import { twinFaces } from '../uv/twins';
import type { FurtherMap } from './maps/further';
import type { RoundedEdges } from './rounded';

/** Edges of a high mesh sharper than this shade hard, degrees. */
export const HIGH_HARD_ANGLE = 60;

/** Where the low side of a pair lies, per triangle corner: all that distances are measured with. Part space, mm. */
export interface LowShape {
  triangles: number;
  position: Float32Array;
  /** Direction the cage moves in: smooth over hard edges, or split there. */
  cage: Float32Array;
}

/** The low side of a pair, per triangle corner, ready for the texel pass; v up. */
export interface LowSide extends LowShape {
  normal: Float32Array;
  /** 4 per corner: MikkTSpace. */
  tangent: Float32Array;
  uv: Float32Array;
  /** Search distances at each corner, mm. */
  front: Float32Array;
  rear: Float32Array;
}

/** The high surface that rays are shot at. */
export interface HighSide {
  tree: RayTree;
  /** 9 per triangle, unit, by the tree's caller numbering. */
  normals: Float32Array;
}

/** A low part with what it is baked from. */
export interface BakePair {
  id: string;
  name: string;
  low: LowSide;
  high: HighSide;
  /** Part space → scene, of the first copy. */
  toScene: number[];
  /** The same where it stands while light is looked for: a drawer may be open then. */
  lit: { toScene: number[]; normalToScene: number[] };
  /** The part itself in scene space, where it is not among what occludes others (a drawer is dark inside wherever it stands), or where a map stands for the part alone. */
  own: RayTree | null;
  /** Search distances painted over, see `laidDabs`. */
  dabs: Float64Array;
  /** Whether it is among what occludes others. */
  shades: boolean;
  /** Its hard edges, where it is baked from itself with edges rounded. */
  rounded: RoundedEdges | null;
  /** Of each triangle the entry of the legend it belongs to, counted from 1, where an id map is wanted: of the high mesh or the low one, see {@link BakeGeometry.idsOfHigh}. */
  ids: Uint16Array | null;
}

/** Everything the texel pass reads; made of flat arrays only, so workers can share it. */
export interface BakeGeometry {
  size: number;
  samples: number;
  /** Casts every sample, also where the first ones agree: what the others are measured against. */
  everySample?: boolean;
  pairs: BakePair[];
  /** What occludes, in scene space. */
  scene: RayTree | null;
  occlusionRays: number;
  /** What of it stands for itself alone, whatever stands round it: then its rays are sent a second time where the other map’s see more. */
  alone: { occlusion: boolean; bentNormal: boolean };
  reachMm: number;
  /** How far from straight out rays of occlusion go, degrees; 90 is all there is. */
  spreadDegrees: number;
  wantNormal: boolean;
  wantOcclusion: boolean;
  /** Radius of the curvature map, mm; 0 for none. */
  curvatureRadiusMm: number;
  thickness: { rays: number; reachMm: number; coneDegrees: number };
  further: readonly FurtherMap[];
  /** Ids are those of the high mesh’s triangles. */
  idsOfHigh: boolean;
}

const shared = (values: ArrayLike<number>, allocate: Allocate): Float32Array => {
  const out = new Float32Array(allocate(4 * values.length));
  out.set(values as Float32Array);
  return out;
};

/** Which way rays search: along normals averaged over hard edges, or split there. */
export type Directions = 'averaged' | 'split';
export const directionsOf = (mesh: PolyMesh, directions: Directions): Float64Array =>
  directions === 'split' ? cornerNormals(mesh) : cageNormals(mesh);

/** Lays a low mesh out per triangle corner, with or without a layout. */
export function lowShape(mesh: PolyMesh, allocate: Allocate = PRIVATE, directions: Directions = 'averaged'): LowShape {
  const cages = directionsOf(mesh, directions);
  const n = mesh.triangles.length;
  const position = new Float32Array(allocate(12 * n));
  const cage = new Float32Array(allocate(12 * n));
  for (let i = 0; i < n; i++) {
    const c = mesh.triangles[i];
    const v = mesh.faceVert[c];
    for (let k = 0; k < 3; k++) {
      position[3 * i + k] = mesh.positions[3 * v + k];
      cage[3 * i + k] = cages[3 * c + k];
    }
  }
  return { triangles: n / 3, position, cage };
}

/** The same with all that maps need. Distances start at zero; {@link setDistances} fills them. */
export function lowSide(mesh: PolyMesh, allocate: Allocate = PRIVATE, directions: Directions = 'averaged'): LowSide {
  const shape = lowShape(mesh, allocate, directions);
  const uvs = attribute(mesh, 'uv', 'corner')?.data as Float64Array;
  const normals = cornerNormals(mesh);
  const n = mesh.triangles.length;
  const normal = new Float32Array(3 * n);
  const uv = new Float32Array(2 * n);
  for (let i = 0; i < n; i++) {
    const c = mesh.triangles[i];
    // Rounded like the exported mesh, so that frames agree to the last bit.
    for (let k = 0; k < 3; k++) normal[3 * i + k] = Math.round(normals[3 * c + k] * 1e6) / 1e6;
    uv[2 * i] = uvs[2 * c];
    uv[2 * i + 1] = uvs[2 * c + 1];
  }
  return {
    ...shape,
    normal: shared(normal, allocate),
    tangent: shared(mikkTangents(shape.position, normal, uv), allocate),
    uv: shared(withoutTwins(mesh, uv), allocate),
    front: new Float32Array(allocate(4 * n)),
    rear: new Float32Array(allocate(4 * n)),
  };
}

/** The layout without triangles that have the texels of others: they shade, and are not baked themselves. */
function withoutTwins(mesh: PolyMesh, uv: Float32Array): Float32Array {
  const twins = twinFaces(mesh);
  if (!twins) return uv;
  const out = uv.slice();
  for (let t = 0; t < mesh.triangleFace.length; t++) if (twins[mesh.triangleFace[t]]) out.fill(0, 6 * t, 6 * t + 6);
  return out;
}

/** @param normals per corner; by the angle of hard edges when absent */
export function highSide(
  mesh: PolyMesh,
  allocate: Allocate = PRIVATE,
  normals: ArrayLike<number> = cornerNormals(mesh, { hardAngle: HIGH_HARD_ANGLE }),
): HighSide {
  const out = new Float32Array(allocate(12 * mesh.triangles.length));
  for (let i = 0; i < mesh.triangles.length; i++) for (let k = 0; k < 3; k++) out[3 * i + k] = normals[3 * mesh.triangles[i] + k];
  return { tree: buildTree(soupOf(mesh), allocate), normals: out };
}

/** Spreads per-vertex distances to the triangle corners. */
export function setDistances(low: LowSide, mesh: PolyMesh, front: ArrayLike<number>, rear: ArrayLike<number>): void {
  for (let i = 0; i < mesh.triangles.length; i++) {
    const v = mesh.faceVert[mesh.triangles[i]];
    low.front[i] = front[v];
    low.rear[i] = rear[v];
  }
}

/** One tree over placed meshes: what stands in the way of light. */
export function sceneTree(occluders: readonly { mesh: PolyMesh; placements: readonly Mat4[] }[], allocate: Allocate = PRIVATE): RayTree {
  const total = occluders.reduce((n, o) => n + 9 * triangleCount(o.mesh) * o.placements.length, 0);
  const soup = new Float32Array(total);
  let at = 0;
  for (const { mesh, placements } of occluders) {
    const own = soupOf(mesh);
    for (const m of placements)
      for (let i = 0; i < own.length; i += 3) {
        const p = transformPoint(m, [own[i], own[i + 1], own[i + 2]]);
        soup[at++] = p[0];
        soup[at++] = p[1];
        soup[at++] = p[2];
      }
  }
  return buildTree(soup, allocate);
}

/** Matrices of a part that stands at one place, and at another one while light is looked for. */
export const sceneMatrices = (m: Mat4, lit: Mat4 = m): Pick<BakePair, 'toScene' | 'lit'> => ({
  toScene: [...m],
  lit: { toScene: [...lit], normalToScene: [...normalMatrix(lit)] },
});
