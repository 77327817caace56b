import { srgbToLinear } from '../image/srgb';
import type { Lamp } from '../light/lamps';
import type { Background } from '../light/rig';
import { type Mat4, normalMatrix } from '../maths/mat4';
import { isWatertight } from '../mesh/measures';
import { cornerNormals } from '../mesh/normals';
import { attribute, type PolyMesh, triangleCount } from '../mesh/polymesh';
import { mikkTangents } from '../mesh/tangents';
import { type Allocate, buildTree, PRIVATE, type RayTree } from '../rays/tree';
import type { Camera } from '../shot/shot';
import { type EnergyTable, energyTable } from '../surface/bsdf/energy';
import type { Material } from '../surface/material';
import type { Wrap } from '../surface/texturing';

/** A texture as the tracer reads it: bytes, top row first. */
export interface SceneTexture {
  width: number;
  height: number;
  channels: 3 | 4;
  data: Uint8Array;
  /** What stands beyond it, across and up; repeated where absent. */
  wrap?: readonly [Wrap, Wrap];
}

/** A material as the tracer reads it: linear colours, textures by number, −1 for none. */
export interface SceneMaterial {
  colour: [number, number, number];
  metallic: number;
  roughness: number;
  ior: number;
  transmission: number;
  coat: number;
  coatRoughness: number;
  emission: [number, number, number];
  /** A single sheet of this stands for both sides of a pane. */
  slab: boolean;
  /** sRGB; replaces `colour` (a set's own colour is in its texture). */
  colourMap: number;
  /** Occlusion, roughness, metallic; replaces the numbers. Occlusion isn't used: light is traced. */
  ormMap: number;
  /** Tangent space, Y up. */
  normalMap: number;
  /** Clear coat and its roughness; replaces the numbers. */
  coatMap: number;
  /** Light let through; replaces the number on what lets any through. */
  clearMap: number;
}

/** A glowing part: chosen as one light. Positions in mm. */
export interface Emitter {
  /** Triangle numbers and their areas added up, the last is the whole, mm². */
  triangles: Uint32Array;
  areas: Float32Array;
  centre: [number, number, number];
  radius: number;
  /** Largest radiance, for choosing. */
  radiance: number;
}

/** Everything the tracer reads, flat arrays and plain values only, so that workers can share it. */
export interface Scene {
  tree: RayTree;
  /** 9 per triangle, unit. */
  normals: Float32Array;
  /** 12 per triangle; zeros where there is no layout. */
  tangents: Float32Array;
  /** 6 per triangle, v up. */
  uvs: Float32Array;
  /** Material of each triangle; the backdrop's is the last. */
  material: Uint16Array;
  materials: SceneMaterial[];
  textures: SceneTexture[];
  lamps: Lamp[];
  /** From all round, W/(m²·sr). */
  environment: [number, number, number];
  emitters: Emitter[];
  /** Triangles from here on are the backdrop. */
  backdropFrom: number;
  background: Background;
  camera: Camera;
  /** Most that light chanced upon by way of a mirror may add, W/(m²·sr). */
  clamp: number;
  energy: EnergyTable;
  /** Corners, 9 per triangle, mm: for normals of facets and points on emitters. */
  corners: Float32Array;
}

/** A mesh with its placements in a scene; mm. */
export interface ScenePart {
  mesh: PolyMesh;
  placements: readonly Mat4[];
  /** Index into the materials given, −1 for none. */
  material: number;
}

/** What a scene is built from; lengths in mm. */
export interface SceneInput {
  parts: readonly ScenePart[];
  materials: readonly SceneMaterial[];
  textures: readonly SceneTexture[];
  lamps: Lamp[];
  environment: [number, number, number];
  backdrop: PolyMesh | null;
  /** sRGB. */
  backdropColour: readonly number[];
  background: Background;
  camera: Camera;
  /** Infinity when left out. */
  clamp?: number;
}

export const plainSceneMaterial = (m: Material): SceneMaterial => ({
  colour: m.colour.map(srgbToLinear) as [number, number, number],
  metallic: m.metallic,
  roughness: m.roughness,
  ior: m.ior,
  transmission: m.transmission,
  coat: m.coat,
  coatRoughness: m.coatRoughness,
  emission: m.colour.map((c) => srgbToLinear(c) * m.emission) as [number, number, number],
  slab: false,
  colourMap: -1,
  ormMap: -1,
  normalMap: -1,
  coatMap: -1,
  clearMap: -1,
});

/** Grey of a part that has no material yet. */
export const NO_MATERIAL: SceneMaterial = {
  colour: [0.45, 0.45, 0.45],
  metallic: 0,
  roughness: 0.5,
  ior: 1.5,
  transmission: 0,
  coat: 0,
  coatRoughness: 0.1,
  emission: [0, 0, 0],
  slab: false,
  colourMap: -1,
  ormMap: -1,
  normalMap: -1,
  coatMap: -1,
  clearMap: -1,
};

/** Lays a scene out in world space and builds its tree; copies of a part become triangles of their own. */
export function buildScene(input: SceneInput, allocate: Allocate = PRIVATE): Scene {
  const placed: ScenePart[] = [...input.parts];
  const materials = input.materials.map((m) => ({ ...m }));
  const noneAt = materials.push({ ...NO_MATERIAL }) - 1;
  const paperAt =
    materials.push({ ...NO_MATERIAL, roughness: 0.9, colour: input.backdropColour.map(srgbToLinear) as [number, number, number] }) - 1;
  // A pane of one sheet and a closed wall of the same glass are two materials to light.
  const panes = new Map<number, number>();
  const materialFor = (p: ScenePart): number => {
    if (p.material < 0) return noneAt;
    if (materials[p.material].transmission === 0 || isWatertight(p.mesh)) return p.material;
    const known = panes.get(p.material);
    if (known !== undefined) return known;
    const made = materials.push({ ...materials[p.material], slab: true }) - 1;
    panes.set(p.material, made);
    return made;
  };
  if (input.backdrop) placed.push({ mesh: input.backdrop, placements: [], material: paperAt });
  const count = placed.reduce((n, p) => n + triangleCount(p.mesh) * Math.max(1, p.placements.length), 0);
  const corners = new Float32Array(allocate(36 * count));
  const normals = new Float32Array(allocate(36 * count));
  const tangents = new Float32Array(allocate(48 * count));
  const uvs = new Float32Array(allocate(24 * count));
  const material = new Uint16Array(allocate(2 * count));
  const emitters: Emitter[] = [];
  let t = 0;
  let backdropFrom = count;
  for (const p of placed) {
    const isBackdrop = input.backdrop !== null && p.mesh === input.backdrop;
    if (isBackdrop) backdropFrom = t;
    const n = triangleCount(p.mesh);
    const own = localArrays(p.mesh, isBackdrop);
    const m = isBackdrop ? paperAt : materialFor(p);
    for (const place of isBackdrop ? [null] : p.placements) {
      const from = t;
      placeCorners(own, place, n, t, corners, normals, tangents);
      uvs.set(own.uv, 6 * t);
      material.fill(m, t, t + n);
      t += n;
      if (Math.max(...materials[m].emission) > 0) emitters.push(emitterOf(corners, from, t, Math.max(...materials[m].emission)));
    }
  }
  return {
    tree: buildTree(corners, allocate),
    normals,
    tangents,
    uvs,
    material,
    materials,
    textures: [...input.textures],
    lamps: input.lamps,
    environment: input.environment,
    emitters,
    backdropFrom,
    background: input.background,
    camera: input.camera,
    clamp: input.clamp ?? Infinity,
    energy: energyTable(allocate),
    corners,
  };
}

interface LocalArrays {
  position: Float64Array;
  normal: Float32Array;
  tangent: Float32Array | null;
  uv: Float32Array;
}

function localArrays(mesh: PolyMesh, smooth: boolean): LocalArrays {
  const n = mesh.triangles.length;
  const all = cornerNormals(mesh, smooth ? { hardAngle: 60 } : {});
  const layout = attribute(mesh, 'uv', 'corner')?.data;
  const position = new Float64Array(3 * n);
  const normal = new Float32Array(3 * n);
  const uv = new Float32Array(2 * n);
  for (let i = 0; i < n; i++) {
    const c = mesh.triangles[i];
    const v = 3 * mesh.faceVert[c];
    for (let k = 0; k < 3; k++) {
      position[3 * i + k] = mesh.positions[v + k];
      normal[3 * i + k] = Math.round(all[3 * c + k] * 1e6) / 1e6;
    }
    if (layout) {
      uv[2 * i] = layout[2 * c];
      uv[2 * i + 1] = layout[2 * c + 1];
    }
  }
  return { position, normal, tangent: layout ? mikkTangents(Float32Array.from(position), normal, uv) : null, uv };
}

function placeCorners(
  own: LocalArrays,
  m: Mat4 | null,
  triangles: number,
  at: number,
  corners: Float32Array,
  normals: Float32Array,
  tangents: Float32Array,
): void {
  const q = m && normalMatrix(m);
  const turned = (a: Mat4, x: number, y: number, z: number, k: number) => a[k] * x + a[4 + k] * y + a[8 + k] * z;
  for (let i = 0; i < 3 * triangles; i++) {
    const [x, y, z] = [own.position[3 * i], own.position[3 * i + 1], own.position[3 * i + 2]];
    const [nx, ny, nz] = [own.normal[3 * i], own.normal[3 * i + 1], own.normal[3 * i + 2]];
    const o = 9 * at + 3 * i;
    const n = q ? [0, 1, 2].map((k) => turned(q, nx, ny, nz, k)) : [nx, ny, nz];
    const l = Math.hypot(n[0], n[1], n[2]) || 1;
    for (let k = 0; k < 3; k++) {
      corners[o + k] = m ? turned(m, x, y, z, k) + m[12 + k] : [x, y, z][k];
      normals[o + k] = n[k] / l;
    }
    if (own.tangent) {
      const [tx, ty, tz, w] = own.tangent.subarray(4 * i, 4 * i + 4);
      const a = 12 * at + 4 * i;
      for (let k = 0; k < 3; k++) tangents[a + k] = m ? turned(m, tx, ty, tz, k) : [tx, ty, tz][k];
      tangents[a + 3] = w;
    }
  }
}

function emitterOf(corners: Float32Array, from: number, to: number, radiance: number): Emitter {
  const triangles = Uint32Array.from({ length: to - from }, (_, i) => from + i);
  const areas = new Float32Array(to - from);
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  let sum = 0;
  for (let i = 0; i < areas.length; i++) {
    const o = 9 * (from + i);
    const a = [0, 1, 2].map((k) => corners[o + 3 + k] - corners[o + k]);
    const b = [0, 1, 2].map((k) => corners[o + 6 + k] - corners[o + k]);
    sum += Math.hypot(a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]) / 2;
    areas[i] = sum;
    for (let k = 0; k < 9; k++) {
      low[k % 3] = Math.min(low[k % 3], corners[o + k]);
      high[k % 3] = Math.max(high[k % 3], corners[o + k]);
    }
  }
  return {
    triangles,
    areas,
    centre: [0, 1, 2].map((k) => (low[k] + high[k]) / 2) as [number, number, number],
    radius: Math.hypot(high[0] - low[0], high[1] - low[1], high[2] - low[2]) / 2,
    radiance,
  };
}
