import type { Dab } from '../bake/dabs';
import type { FurtherMap, IdBy } from '../bake/maps/further';
import type { Brief } from '../brief/brief';
import type { Counts } from '../form/budget/solve';
import type { Dimension } from '../form/dimensions';
import type { Reference } from '../form/reference';
import type { Region } from '../form/regions';
import type { PickedSeam } from '../form/seam-paths';
import type { Step } from '../form/steps';
import type { Box } from '../inspect/finding';
import type { Travel } from '../inspect/relations';
import type { Up } from '../io/formats';
import { RIG_DEFAULTS, type Rig } from '../light/rig';
import type { Mat4 } from '../maths/mat4';
import type { Vec3 } from '../maths/vec3';
import { type Photo, PROJECT_DEFAULTS, type ProjectChoices } from '../photo/photo';
import type { Print } from '../print/print';
import { SHOT_DEFAULTS, type Shot } from '../shot/shot';
import { isClearOrGlowing, type Material, upgradeMaterial } from '../surface/material';
import { PLAIN_TEXTURING, type Slot, type TextureUse } from '../surface/texturing';
import type { FlatChoice } from '../uv/chosen/choices';
import type { Grain } from '../uv/grain';
import type { IslandPlace } from '../uv/hand/places';
import type { Turning } from '../uv/pack/pack';
import type { SecondChoices } from '../uv/second';
import { HANDOFF_DEFAULTS, type HandoffChoices } from './handoff-choices';
import type { Variant } from './variants';

export type { Material } from '../surface/material';
export * from './handoff-choices';

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

/** A mesh kept as a blob: its SHA-256 and what a reader wants to know without opening it. */
export interface MeshRef {
  blob: string;
  triangles: number;
}

/** A picture that came with a file, kept as it was: its bytes under their name. */
export interface SourceTexture {
  name: string;
  mime: string;
  blob: string;
  /** px; absent where it is of a kind that can’t be read. */
  width?: number;
  height?: number;
}

/** Where an imported file came from, and under which licence. */
export interface Source {
  fileName: string;
  licence: string;
  note: string;
  /** Its pictures. */
  textures?: SourceTexture[];
}

/** A file whose surfaces are exact: how finely they were cut, mm, and which way is up in it. */
export interface ExactFile {
  blob: string;
  toleranceMm: number;
  up: Up;
}

/** What a part was taken from, so that a newer one can be taken in its place. */
export type PartOrigin = (
  | {
      kind: 'file';
      fileName: string;
      /** What the part is called there. */
      name: string;
      /** The file itself, to be cut again. */
      exact?: ExactFile;
    }
  | {
      kind: 'piece';
      /** The piece of the Workshop, and what it is called. */
      asset: string;
      piece: string;
      /** Id of the part there. */
      part: string;
      /** Name of the form that was taken: another one there is newer. */
      state: string;
      /** It stays as it was taken. */
      frozen: boolean;
    }
) & {
  /** The newer one that was taken has it no more. */
  gone?: boolean;
};

/** Made by steps, brought as a mesh that steps may go on changing, or a copy of another part: its mesh, mirrored or not, in a place of its own. */
export type Shape =
  | { kind: 'recipe'; steps: Step[] }
  | {
      kind: 'mesh';
      low: MeshRef;
      placements: Mat4[];
      /** A scale that isn’t the same in every direction, or a mirror, which the file had on it and which is in the mesh now. */
      came?: Mat4;
      steps?: Step[];
    }
  | { kind: 'copy'; of: string; mirror: 'x' | 'y' | 'z' | null; steps?: undefined };

/** A part of the piece: made by steps, or an imported mesh with steps after it. */
export interface Part {
  id: string;
  name: string;
  role: Role;
  /** Material id, or null when none was given. */
  material: string | null;
  move: Vec3;
  turnDegrees: Vec3;
  shape: Shape;
  /** An imported dense mesh, already in the low part's space. Recipes make their own. Where it is several in one, `of` says which of {@link AssetDocument.highParts}. */
  high?: MeshRef & { name: string; pairedBy: 'name' | 'place' | 'hand'; of?: string[] };
  /** Share of texels against the others: 2 is twice the density. */
  weight: number;
  /** Its density, px/cm, whatever the others come to; as the tile allows when absent or 0. */
  pxPerCm?: number;
  /** Which way its grain runs; it then runs up the tile on every island. None when absent. */
  grain?: Grain;
  /** The rim is meant to be open. */
  declaredOpen: boolean;
  /** Named sets of faces. */
  regions?: Region[];
  /** Seams picked by hand. */
  seams?: PickedSeam[];
  /** Only for the steps of other parts, which cut with it or join it: it is not delivered. */
  aid?: boolean;
  /** How it moves, for a drawer, a lid, a knob. */
  travel?: Travel;
  /** It is taken off or opened, in no way that was said: a stopper, a lid. */
  loose?: boolean;
  /** The group it belongs to. */
  group?: string;
  /** Where its mesh was taken from; nothing where it is made by steps. */
  origin?: PartOrigin;
}

/** Parts that are moved together and looked at together. */
export interface Group {
  id: string;
  name: string;
}

/** How two parts are wanted to stand to each other. */
export interface Relation {
  id: string;
  a: string;
  b: string;
  wanted: 'gap' | 'resting' | 'sunk' | 'free';
  /** The gap, or how deep one goes into the other, mm. */
  mm: number;
  /** How far it may be off, mm. */
  tolerance: number;
}
export const WANTED: Record<Relation['wanted'], string> = { gap: 'a gap', resting: 'resting', sunk: 'sunk in', free: 'free' };

/** Parts that go out; cutters and other aids only help to make them. */
export const deliveredParts = (document: Pick<AssetDocument, 'parts'>): Part[] => document.parts.filter((p) => !p.aid);

/** Whether any part has a high mesh. */
export const hasHigh = (document: AssetDocument): boolean =>
  deliveredParts(document).some((p) => originalOf(document, p).shape.kind === 'recipe' || originalOf(document, p).high !== undefined);

/** Whether anything is baked at all: without a high mesh only what is wanted from the parts themselves. */
export const canBake = (document: AssetDocument): boolean =>
  hasHigh(document) || (document.bake.itself && deliveredParts(document).length > 0);

/** Materials that a delivered part has, in the document's order. */
export const usedMaterials = (document: AssetDocument): Material[] =>
  document.materials.filter((m) => deliveredParts(document).some((p) => p.material === m.id));

/** Regions of delivered parts that a material of their own is composed on: opaque ones; what is clear or glows can’t lie on a region. */
export const painted = (document: AssetDocument): { part: Part; region: Region; material: Material }[] =>
  deliveredParts(document).flatMap((part) =>
    (part.regions ?? []).flatMap((region) => {
      const material = document.materials.find((m) => m.id === region.material);
      return material && !isClearOrGlowing(material) && part.material !== null ? [{ part, region, material }] : [];
    }),
  );

/** Materials that are composed: those of parts and of their regions, in the document's order. */
export function composedMaterials(document: AssetDocument): Material[] {
  const regions = new Set(painted(document).map((p) => p.material.id));
  const used = new Set(usedMaterials(document).map((m) => m.id));
  return document.materials.filter((m) => used.has(m.id) || regions.has(m.id));
}

/** The part a copy is one of: what it has its mesh from. Itself where it is none, or where that part is gone. */
export function originalOf(document: Pick<AssetDocument, 'parts'>, part: Part): Part {
  if (part.shape.kind !== 'copy') return part;
  const { of } = part.shape;
  return document.parts.find((p) => p.id === of && p.shape.kind !== 'copy') ?? part;
}

/** Copies that are drawn with the texels of the part they are copies of, as both have one material: id → that part's. */
export function sharers(document: AssetDocument): Record<string, string> {
  const out: Record<string, string> = {};
  for (const p of document.parts) {
    const original = originalOf(document, p);
    if (original !== p && original.material === p.material && !original.aid && !p.aid) out[p.id] = original.id;
  }
  return out;
}

export const stepsOf = (part: Part): readonly Step[] => part.shape.steps ?? [];

/** A finding that is meant, and how bad it was when that was said. */
export interface Waiver {
  /** Id of the finding it covers. */
  finding: string;
  reason: string;
  /** Value the finding had, and the box round all it covered, mm: much another value or place re-opens it. */
  value: number;
  covers?: Box;
}

/** Whether where a part stands is one place of many: what it covers there is not covered for good. */
export const isMoved = (p: Part): boolean => p.travel !== undefined || p.loose === true;

/** What was decided about counts and tolerances. */
export interface FormChoices {
  counts: Counts;
  locks: Counts;
  /** Tolerance of the high mesh, mm. */
  highToleranceMm: number;
  /** Triangles pinned to parts, copies counted. */
  shares?: Record<string, number>;
  /** Counts that have to be equal. */
  ties?: string[][];
}

/** What is made of a layout that a file brought: measured as it is, packed again, laid anew where it is stretched too far, or wholly. */
export type Filed = 'kept' | 'packed' | 'mended' | 'anew';
export const FILED: Record<Filed, string> = {
  kept: 'kept as it is',
  packed: 'packed again',
  mended: 'laid anew where stretched',
  anew: 'laid anew',
};

/** What was decided about the layout. */
export interface UnwrapChoices {
  /** Empty texels between islands at the delivered size. */
  padding: number;
  /** Islands of imported parts are cut where faces turn by more than this, degrees. */
  seamAngle: number;
  rotate: Turning;
  /** Fewer seams for more stretch: 1 takes four times the stretch for a mm of seam, −1 a quarter. */
  fewer: number;
  /** Islands stretched more than this (L²) are cut again. */
  stretchLimit: number;
  /** Islands stay as they are cut, even where the tile would be filled better if they were divided. */
  whole: boolean;
  /** Texels along a side of islands nobody looks at, against the others: 0.5 is half the density. */
  unseen: number;
  /** A layout beside this one; none when absent. */
  second?: SecondChoices;
  /** Shells of one shape have the same texels; each has its own when absent. */
  twins?: 'once' | 'each';
  /** What is made of layouts that files brought; they are laid anew when absent. */
  filed?: Filed;
  /** Where islands were put by hand; the others are packed round them. */
  places?: IslandPlace[];
  /** Islands and parts that are laid flat otherwise than they would be. */
  choices?: FlatChoice[];
}

/** What was decided about the bake; lengths in mm. */
export interface BakeChoices {
  samples: 1 | 2 | 4 | 8;
  y: 'up' | 'down';
  bits: 8 | 16;
  normal: boolean;
  occlusion: boolean;
  occlusionRays: number;
  reachMm: number;
  distances: 'measured' | 'uniform';
  frontMm: number;
  rearMm: number;
  /** Which way rays search: along normals averaged over hard edges, or split there, straight off each side’s own shading. */
  directions: 'averaged' | 'split';
  /** Distances painted over those. */
  dabs: Dab[];
  /** Curvature for wear, at a radius in mm. */
  curvature: boolean;
  curvatureRadiusMm: number;
  /** Whether parts that move darken what they cover where they stand now. */
  movingOcclude: boolean;
  /** Parts with a travel stand at its end while light is looked for: a drawer is baked open. */
  movingOpen: boolean;
  /** Maps beside those three. */
  further: FurtherMap[];
  /** How far from straight out rays of occlusion go, degrees. */
  spreadDegrees: number;
  /** Whether other parts darken a part at all, and whether they bend its open directions. */
  neighbours: boolean;
  bentNeighbours: boolean;
  /** Whether the ground the piece stands on darkens it. */
  ground: boolean;
  /** How far thickness is looked for, mm. */
  thicknessMm: number;
  /** What the colours of the id map stand for. */
  idBy: IdBy;
  /** Whether patches of a colour that went astray take the one round them. */
  idClean: boolean;
  /** A piece without any high mesh is baked from itself. */
  itself: boolean;
  /** Radius that hard edges of parts without a high mesh are rounded by, mm; 0: they stay sharp. */
  roundMm: number;
  /** How far values are carried beyond the islands, texels; 0: over all of the tile. */
  carriedPx: number;
}

/** What was decided about gathering materials on one layout. */
export interface GatherChoices {
  /** The piece is handed over with the gathered set. */
  on: boolean;
  /** Which layout is drawn to. */
  to: 'first' | 'second';
  /** Side of the set, px. */
  size: number;
  /** Parts left as they are. */
  left: string[];
  /** Parts stay apart, each a draw of its own. */
  apart: boolean;
}

/** What was decided about the set beside its materials. */
export interface SurfaceChoices {
  /** Which blotches. */
  seed: number;
}

/** What was decided about the picture. */
export interface RenderChoices {
  /** What ends a picture: a number of samples per pixel, or a noise that is low enough. */
  until: 'samples' | 'noise';
  samples: number;
  /** Share of full, see core/render/film. */
  noise: number;
  seed: number;
  /** Drawn with the composed set and the baked normals; else in the materials' plain values. */
  maps: boolean;
}

/** An asset: everything a person decided. Results are worked out from it and kept beside it under their hash. */
export interface AssetDocument {
  schema: 2;
  name: string;
  brief: Brief;
  materials: Material[];
  parts: Part[];
  /** Groups of parts; none when absent. */
  groups?: Group[];
  /** Named figures that steps refer to. */
  dimensions: Dimension[];
  /** Pictures behind the piece. */
  references: Reference[];
  /** How parts are wanted to stand to each other; none when absent. */
  relations?: Relation[];
  sources: Source[];
  form: FormChoices;
  unwrap: UnwrapChoices;
  bake: BakeChoices;
  /** Nothing is gathered when absent. */
  gather?: Partial<GatherChoices>;
  /** Photographs of the piece; none when absent. */
  photos?: Photo[];
  /** How they are laid on it; not at all when absent. */
  project?: Partial<ProjectChoices>;
  surface: SurfaceChoices;
  /** What is printed on its parts, from the surface up; nothing when absent. */
  prints?: Print[];
  /** Its looks beside its own; none when absent. */
  variants?: Variant[];
  /** Which of them this is the piece as: never stored with it, see {@link Variant}. */
  as?: string;
  rig: Rig;
  shot: Shot;
  render: RenderChoices;
  handoff: HandoffChoices;
  waivers: Waiver[];
  /** An imported high file whose parts are not all paired yet. */
  highParts: (MeshRef & { name: string; centre: Vec3 })[];
}

export const UNWRAP_DEFAULTS: UnwrapChoices = {
  padding: 8,
  seamAngle: 50,
  rotate: true,
  fewer: 0,
  stretchLimit: 1.05,
  whole: false,
  unseen: 1,
};
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
  directions: 'averaged',
  frontMm: 1,
  rearMm: 1,
  dabs: [],
  curvature: true,
  curvatureRadiusMm: 1,
  movingOcclude: false,
  movingOpen: false,
  further: [],
  spreadDegrees: 90,
  neighbours: true,
  bentNeighbours: true,
  ground: false,
  thicknessMm: 20,
  idBy: 'region',
  idClean: false,
  itself: false,
  roundMm: 0,
  carriedPx: 0,
};
export const GATHER_DEFAULTS: Omit<GatherChoices, 'size'> = { on: false, to: 'second', left: [], apart: false };
/** What is decided about gathering; at the size of the brief until somebody says another. */
export const gatherOf = (document: AssetDocument): GatherChoices => ({
  ...GATHER_DEFAULTS,
  size: document.brief.limits.textureSize,
  ...document.gather,
});
/** What is decided about photographs; at the size of the brief until somebody says another. */
export const projectOf = (document: AssetDocument): ProjectChoices => ({
  ...PROJECT_DEFAULTS,
  size: document.brief.limits.textureSize,
  ...document.project,
});
/** Parts that go out in photographs, which need no material of their own: their ids. */
export function photographedParts(document: AssetDocument): Set<string> {
  const { on, left } = projectOf(document);
  return new Set(on ? deliveredParts(document).flatMap((p) => (left.includes(p.id) ? [] : [p.id])) : []);
}
/** Photographs that are laid on the piece. */
export const photosTaken = (document: AssetDocument): Photo[] => (document.photos ?? []).filter((p) => !p.left);
export const SURFACE_DEFAULTS: SurfaceChoices = { seed: 1 };
export const RENDER_DEFAULTS: RenderChoices = { until: 'samples', samples: 64, noise: 0.008, seed: 1, maps: true };
export const FORM_DEFAULTS: FormChoices = { counts: {}, locks: {}, highToleranceMm: 0.006 };

/** Which pictures a material had where, as older documents kept it beside the source they came in. */
interface OlderMaps {
  material: string;
  baseColour?: number;
  orm?: number;
  normal?: number;
  alpha?: boolean;
}
function olderTexturing(id: string, sources: readonly Source[] = []): Pick<Material, 'texturing'> {
  for (const s of sources as readonly (Source & { maps?: OlderMaps[] })[]) {
    const maps = s.maps?.find((m) => m.material === id);
    if (!maps || !s.textures) continue;
    const use = (slot: Slot, at: number | undefined, channel?: number): TextureUse[] => {
      const blob = at === undefined ? undefined : s.textures?.[at]?.blob;
      return blob ? [{ picture: blob, slot, layout: 0, ...(channel !== undefined && { channel }) }] : [];
    };
    const uses = [
      ...use('baseColour', maps.baseColour),
      ...(maps.alpha ? use('alpha', maps.baseColour, 3) : []),
      ...use('roughness', maps.orm, 1),
      ...use('metallic', maps.orm, 2),
      ...use('normal', maps.normal),
    ];
    if (uses.length > 0) return { texturing: { ...PLAIN_TEXTURING, uses, ...(maps.alpha && { alpha: 'blend' as const }) } };
  }
  return {};
}

/** An asset in which only the brief was decided. */
export function newDocument(name: string, brief: Brief): AssetDocument {
  return {
    schema: 2,
    name,
    brief,
    materials: [],
    parts: [],
    dimensions: [],
    references: [],
    sources: [],
    form: FORM_DEFAULTS,
    unwrap: UNWRAP_DEFAULTS,
    bake: BAKE_DEFAULTS,
    surface: SURFACE_DEFAULTS,
    rig: RIG_DEFAULTS,
    shot: SHOT_DEFAULTS,
    render: RENDER_DEFAULTS,
    handoff: HANDOFF_DEFAULTS,
    waivers: [],
    highParts: [],
  };
}

/** A document as it was stored, whatever its schema, as today's: what is new gets its default, nothing is dropped. */
export function upgradeDocument(stored: unknown): AssetDocument {
  const old = stored as Partial<AssetDocument> & Pick<AssetDocument, 'name' | 'brief'>;
  return {
    ...newDocument(old.name, old.brief),
    ...old,
    schema: 2,
    materials: (old.materials ?? []).map((m) => ({ ...olderTexturing(m.id, old.sources), ...upgradeMaterial(m) })),
    dimensions: old.dimensions ?? [],
    references: old.references ?? [],
    unwrap: { ...UNWRAP_DEFAULTS, ...old.unwrap },
    bake: { ...BAKE_DEFAULTS, ...old.bake },
    surface: { ...SURFACE_DEFAULTS, ...old.surface },
    rig: { ...RIG_DEFAULTS, ...old.rig },
    shot: { ...SHOT_DEFAULTS, ...old.shot },
    render: { ...RENDER_DEFAULTS, ...old.render },
    handoff: { ...HANDOFF_DEFAULTS, ...old.handoff, include: { ...HANDOFF_DEFAULTS.include, ...old.handoff?.include } },
  };
}
