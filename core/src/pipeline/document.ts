import type { Brief } from '../brief/brief';
import type { Counts } from '../form/budget/solve';
import type { Step } from '../form/recipe';
import type { Mat4 } from '../maths/mat4';
import type { Vec3 } from '../maths/vec3';

/** What a part is for; glass doesn't darken what stands behind it. */
export type Role = 'body' | 'glass' | 'liquid' | 'fastener' | 'print' | 'flame';
export const ROLES: Record<Role, string> = {
  body: 'body',
  glass: 'glass',
  liquid: 'liquid',
  fastener: 'fastener',
  print: 'print carrier',
  flame: 'flame',
};

/** What a part is made of, as far as the first half of the way needs it. Colour is sRGB, 0…1. */
export interface Material {
  id: string;
  name: string;
  colour: [number, number, number];
  metallic: number;
  roughness: number;
  /** 0…1; below 1 the part is drawn clear. */
  opacity: number;
  emissive: number;
}

/** A mesh kept as a blob: its SHA-256 and what a reader wants to know without opening it. */
export interface MeshRef {
  blob: string;
  triangles: number;
}

/** Where an imported file came from, and under which licence. */
export interface Source {
  fileName: string;
  licence: string;
  note: string;
}

export type Shape = { kind: 'recipe'; steps: Step[] } | { kind: 'mesh'; low: MeshRef; placements: Mat4[] };

export interface Part {
  id: string;
  name: string;
  role: Role;
  /** Material id, or null when none was given. */
  material: string | null;
  move: Vec3;
  turnDegrees: Vec3;
  shape: Shape;
  /** An imported dense mesh, already in the low part's space. Recipes make their own. */
  high?: MeshRef & { name: string; pairedBy: 'name' | 'place' | 'hand' };
  /** Share of texels against the others: 2 is twice the density. */
  weight: number;
  /** The rim is meant to be open. */
  declaredOpen: boolean;
}

export interface Waiver {
  /** Id of the finding it covers. */
  finding: string;
  reason: string;
  /** Value the finding had; another value re-opens it. */
  value: number;
}

export interface FormChoices {
  counts: Counts;
  locks: Counts;
  /** Tolerance of the high mesh, mm. */
  highToleranceMm: number;
}

export interface UnwrapChoices {
  /** Empty texels between islands at the delivered size. */
  padding: number;
  /** Islands of imported parts are cut where faces turn by more than this, degrees. */
  seamAngle: number;
  rotate: boolean;
}

export interface BakeChoices {
  samples: 1 | 2 | 4;
  y: 'up' | 'down';
  bits: 8 | 16;
  normal: boolean;
  occlusion: boolean;
  occlusionRays: number;
  reachMm: number;
  distances: 'measured' | 'uniform';
  frontMm: number;
  rearMm: number;
}

/** An asset: everything a person decided. Results are worked out from it and kept beside it under their hash. */
export interface AssetDocument {
  schema: 1;
  name: string;
  brief: Brief;
  materials: Material[];
  parts: Part[];
  sources: Source[];
  form: FormChoices;
  unwrap: UnwrapChoices;
  bake: BakeChoices;
  waivers: Waiver[];
  /** An imported high file whose parts are not all paired yet. */
  highParts: (MeshRef & { name: string; centre: Vec3 })[];
}

export const UNWRAP_DEFAULTS: UnwrapChoices = { padding: 8, seamAngle: 50, rotate: true };
/** 4 × 4 samples per texel and 2 × 2 are common practice, no source; 16 rays are the slice's speed target. */
export const BAKE_DEFAULTS: BakeChoices = {
  samples: 2,
  y: 'up',
  bits: 8,
  normal: true,
  occlusion: true,
  occlusionRays: 16,
  reachMm: 30,
  distances: 'measured',
  frontMm: 1,
  rearMm: 1,
};
export const FORM_DEFAULTS: FormChoices = { counts: {}, locks: {}, highToleranceMm: 0.006 };

export function newDocument(name: string, brief: Brief): AssetDocument {
  return {
    schema: 1,
    name,
    brief,
    materials: [],
    parts: [],
    sources: [],
    form: FORM_DEFAULTS,
    unwrap: UNWRAP_DEFAULTS,
    bake: BAKE_DEFAULTS,
    waivers: [],
    highParts: [],
  };
}
