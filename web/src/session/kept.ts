import type { BakeFigures, BakeFile } from '@wellmorph/core/pipeline/bake';
import type { FindingsFigures, FormFigures } from '@wellmorph/core/pipeline/forming';
import type { GatheredMap, GatherFigures } from '@wellmorph/core/pipeline/gather-figures';
import type { Look } from '@wellmorph/core/pipeline/look';
import type { ProjectedMap, ProjectFigures } from '@wellmorph/core/pipeline/project-figures';
import type { RenderFigures } from '@wellmorph/core/pipeline/render';
import type { Kept } from '@wellmorph/core/pipeline/results';
import type { SurfaceFigures } from '@wellmorph/core/pipeline/surface';
import type { LayoutFigures } from '@wellmorph/core/uv/measure';
import type { Bytes, GpuPart, IslandPath } from '@/workers/protocol';

/** The figures that each kind of result is kept with. */
export interface FiguresOf {
  form: FormFigures;
  findings: FindingsFigures;
  look: Look;
  unwrap: LayoutFigures;
  bake: BakeFigures;
  surface: SurfaceFigures;
  gather: GatherFigures;
  project: ProjectFigures;
  render: RenderFigures;
}

/** What a result looks like on the sheet, with the name of exactly what it was made from. */
export interface FormView extends FormFigures {
  name: string;
  parts: Bytes;
  gpu: GpuPart[];
  aids: Bytes;
  aidGpu: GpuPart[];
}
export interface LayoutView {
  name: string;
  parts: Bytes;
  gpu: GpuPart[];
  islands: IslandPath[];
  /** Islands of the layout beside it; none where there is none. */
  second: IslandPath[];
  figures: LayoutFigures;
  png: string;
  svg: string;
}
export interface BakeView {
  name: string;
  figures: BakeFigures;
  /** Its files as blobs. */
  files: Partial<Record<BakeFile, string>>;
}
/** A composed set: figures, and its textures as blobs. */
export interface SurfaceView {
  name: string;
  figures: SurfaceFigures;
  baseColour: string;
  orm: string;
  emissive: string | null;
  /** Clear coat and its roughness, and the light let through, where layers change them. */
  coat: string | null;
  clear: string | null;
  /** With what stands out, where something does: in place of the baked one. */
  normal: string | null;
  validity: string;
}
/** A gathered set: figures, and its pictures as blobs. */
export interface GatherView {
  name: string;
  figures: GatherFigures;
  files: Partial<Record<GatheredMap, string>>;
}
/** Photographs laid on: figures, and their pictures as blobs. */
export interface ProjectView {
  name: string;
  figures: ProjectFigures;
  files: Record<ProjectedMap, string>;
}
export interface RenderView {
  name: string;
  figures: RenderFigures;
  png: string;
}
export interface Views {
  form: FormView;
  findings: { name: string } & FindingsFigures;
  look: { name: string } & Look;
  unwrap: LayoutView;
  bake: BakeView;
  surface: SurfaceView;
  gather: GatherView;
  project: ProjectView;
  render: RenderView;
}
/** Each kind of result that is in view; null where there is none. */
export type InView = { [K in Kept]: Views[K] | null };
