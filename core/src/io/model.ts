import type { Mat4 } from '../maths/mat4';
import type { PolyMesh } from '../mesh/polymesh';
import type { Material } from '../surface/material';
import type { Texturing } from '../surface/texturing';

/** A material as a file describes it, its pictures by their number in the model. `touched` when it carries a whole description of our own. */
export type ModelMaterial = Omit<Material, 'id' | 'texturing'> & { texturing?: Texturing<number> };

/** A picture inside a model, as its bytes. */
export interface ModelTexture {
  name: string;
  mime: string;
  bytes: Uint8Array;
}

/** One named mesh with one material and the places it stands in. Millimetres. */
export interface ModelPart {
  name: string;
  mesh: PolyMesh;
  /** Turned and moved only: a scale, a mirror or a shear on a node is in the mesh. */
  placements: Mat4[];
  /** What was on its nodes and is in the mesh, where it wasn’t the same in every direction. */
  came?: Mat4;
  /** Index into the model's materials, −1 for none. */
  material: number;
  /** Vertices of the file that its triangles use, where it has vertices as a graphics card takes them. */
  vertices?: number;
  /** Faces the file gives another material than the rest: patches under a name, and which. */
  coloured?: { patches: string; material: number }[];
}

/** A model that was read: its parts, materials, textures, and what was left out, in sentences. */
export interface Model {
  parts: ModelPart[];
  materials: ModelMaterial[];
  textures: ModelTexture[];
  /** What was left out or taken differently, in sentences. */
  notes: string[];
}
