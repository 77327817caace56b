import type { Counts } from '@wellmorph/core/bake/bands';
import type { IdStray } from '@wellmorph/core/bake/ids';
import type { SeamShown } from '@wellmorph/core/bake/judge';
import type { Texels } from '@wellmorph/core/bake/texels';
import type { TileRect } from '@wellmorph/core/bake/window';
import type { ContactPicture } from '@wellmorph/core/drawing/contact-sheet';
import type { TemplateOptions } from '@wellmorph/core/drawing/template';
import type { Budget } from '@wellmorph/core/form/budget/solve';
import type { Picked } from '@wellmorph/core/form/fit';
import type { PatchLine, Place, Spot } from '@wellmorph/core/form/places';
import type { FoundSeam, SeamReach } from '@wellmorph/core/form/seam-paths';
import type { Reach } from '@wellmorph/core/form/select';
import type { BandCounts, Gathered } from '@wellmorph/core/gather/bands';
import type { Finding, FixId } from '@wellmorph/core/inspect/finding';
import type { GroundShade, Standing } from '@wellmorph/core/inspect/ground';
import type { PartSection } from '@wellmorph/core/inspect/section';
import type { LayoutViewKind, View, ViewKind } from '@wellmorph/core/inspect/views';
import type { CamePictures } from '@wellmorph/core/io/glb-came';
import type { Mat4 } from '@wellmorph/core/maths/mat4';
import type { Vec3 } from '@wellmorph/core/maths/vec3';
import type { Bounds } from '@wellmorph/core/mesh/measures';
import type { Plane } from '@wellmorph/core/mesh/slice';
import type { Photo } from '@wellmorph/core/photo/photo';
import type { Projected } from '@wellmorph/core/photo/project/job';
import type { BakeFile, BakeResult, PreparedBake } from '@wellmorph/core/pipeline/bake';
import type { WindowBaked } from '@wellmorph/core/pipeline/bake-window';
import type { CameMeasured } from '@wellmorph/core/pipeline/came-judged';
import type { Command } from '@wellmorph/core/pipeline/commands/index';
import type { AssetDocument, Material } from '@wellmorph/core/pipeline/document';
import type { FormResult } from '@wellmorph/core/pipeline/form';
import type { FindingsFigures, FormFigures } from '@wellmorph/core/pipeline/forming';
import type { GatherResult, GatherSet, PreparedGather } from '@wellmorph/core/pipeline/gather';
import type { SetFigures } from '@wellmorph/core/pipeline/gather-figures';
import type { GatheredSet } from '@wellmorph/core/pipeline/gathered';
import type { HandoffMaps } from '@wellmorph/core/pipeline/handoff';
import type { Level } from '@wellmorph/core/pipeline/levels';
import type { Look } from '@wellmorph/core/pipeline/look';
import type { MeasuredPair } from '@wellmorph/core/pipeline/pair-lies';
import type { AssetState } from '@wellmorph/core/pipeline/preflight';
import type { PrintedFigures } from '@wellmorph/core/pipeline/printed';
import type { PrintedDocument } from '@wellmorph/core/pipeline/prints';
import type { PreparedProject, ProjectResult } from '@wellmorph/core/pipeline/project';
import type { Check, SetFiles, SolvedStage } from '@wellmorph/core/pipeline/render';
import type { SeamsLit } from '@wellmorph/core/pipeline/seams-lit';
import type { Simplified } from '@wellmorph/core/pipeline/simplify';
import type { BakedMaps, PreparedSurface, SetJob, SurfaceFigures, SurfaceFiles } from '@wellmorph/core/pipeline/surface';
import type { Artwork } from '@wellmorph/core/print/print';
import type { Development, Film, Pass } from '@wellmorph/core/render/film';
import type { Scene } from '@wellmorph/core/render/scene';
import type { Tracer } from '@wellmorph/core/render/schedule';
import type { Counts as ComposeCounts, Over } from '@wellmorph/core/surface/compose';
import type { DrawnStroke } from '@wellmorph/core/surface/layers/stroke-grid';
import type { Stroke } from '@wellmorph/core/surface/layers/strokes';
import type { TilePlace } from '@wellmorph/core/uv/at-tile';
import type { GapField } from '@wellmorph/core/uv/hand/gaps';
import type { IslandPlace } from '@wellmorph/core/uv/hand/places';
import type { LayoutFigures } from '@wellmorph/core/uv/measure';
import type { LayoutView } from '@wellmorph/core/uv/views';
import type { PhotoSolved } from './project';

/** A part as the plate draws it. */
export interface GpuPart {
  id: string;
  name: string;
  placements: Mat4[];
  index: Uint32Array;
  position: Float32Array;
  normal: Float32Array;
  uv?: Float32Array;
  tangent?: Float32Array;
  /** Layouts beside the first and colours of vertices, as files brought them. */
  more?: { name: string; size: number; data: Float32Array }[];
  /** Edges of the faces: 6 numbers each, mm. */
  edges: Float32Array;
  /** Triangle → face of the mesh. */
  face: Uint32Array;
  /** Edges of seams picked by hand: 6 numbers each, mm. */
  seams?: Float32Array;
  /** Those that were closed by hand, and where a layout is cut. */
  closed?: Float32Array;
  borders?: Float32Array;
  /** Triangle → island, with a layout. */
  island?: Int32Array;
  /** It has rims: its other side is seen through them. */
  open?: boolean;
  triangles: number;
}

/** An island of the layout as a path in the unit square, v down. */
export interface IslandPath {
  part: string;
  island: number;
  path: string;
  /** Its part has the texels of another altogether. */
  twin?: true;
}

/** Triangles with a colour at each corner: 3 numbers a corner each, mm, unit, linear. */
export interface DrawnView {
  position: Float32Array;
  normal: Float32Array;
  colour: Float32Array;
}

export type Bytes = Uint8Array<ArrayBuffer>;
/** Stored meshes the work needs, by blob; in shared memory, so that handing them on copies nothing. */
export type Meshes = Record<string, Uint8Array>;

/** Files of artworks, by blob; in shared memory. */
export type Files = Record<string, Uint8Array>;
/** What is printed on a preview. */
export interface Printing {
  document: PrintedDocument;
  files: Files;
  /** Side of the set that it is a preview of, px: what prints are judged at. */
  size: number;
  /** The print whose border is to be shown. */
  border: string | null;
}

/** The stage as it is lit and seen, with what the plan from above draws. */
export interface StageView extends SolvedStage {
  checks: Check[];
  /** The piece seen from above: a convex outline, x and z in mm, and its box. */
  outline: [number, number][];
  bounds: Bounds;
}

/** Everything a worker can be asked, and what it answers. */
/** A set that several share the ground of, composed and with what was counted on its strips. */
export interface SharedSet {
  job: SetJob;
  strips: readonly ComposeCounts[];
  maps: BakedMaps;
}

export interface Work {
  form: {
    /** A card is what a picture is drawn of where one is wanted, with the files of its artworks. */
    ask: { document: AssetDocument; meshes: Meshes; card: AssetDocument | null; files?: Files };
    answer: {
      parts: Bytes;
      gpu: GpuPart[];
      /** Parts that only help others, bundled and as the plate draws them. */
      aids: Bytes;
      aidGpu: GpuPart[];
      figures: FormFigures;
      found: FindingsFigures;
      /** Whether every library was there that its steps need. */
      whole: boolean;
      thumbnail: Bytes | null;
    };
  };
  /** A click on a face: what a region's picked faces become. */
  pick: {
    ask: { parts: Bytes; part: string; face: number; reach: Reach; degrees: number; faces: number[]; remove: boolean };
    answer: { places: Place[]; faces: number[] };
  };
  /** The edge of a face nearest to a point of it, as a seam: that edge, or the whole line it lies on. */
  seam: { ask: { parts: Bytes; part: string; face: number; point: [number, number, number]; whole: boolean }; answer: PatchLine | null };
  /** What a click makes a seam or none: an edge, the line it is on, or the way from a place to the corner nearest to it. */
  seamPath: {
    /** Where it was clicked: on the surface, or on an island of the layout. */
    ask: { parts: Bytes; part: string; at: TilePlace | { island: number; tile: [number, number] }; reach: SeamReach; from: Vec3 | null };
    answer: FoundSeam;
  };
  /** The place of a click as a step keeps it. */
  spot: { ask: { parts: Bytes; part: string; face: number; point: [number, number, number] }; answer: Spot | null };
  show: { ask: { parts: Bytes }; answer: { gpu: GpuPart[]; islands: IslandPath[]; second: IslandPath[] } };
  high: {
    ask: { document: AssetDocument; meshes: Meshes };
    answer: { gpu: GpuPart[]; triangles: number; problems: FormResult['problems']; steps: FormResult['steps'] };
  };
  solve: { ask: { document: AssetDocument; meshes: Meshes; limit: number }; answer: Budget };
  /** Imports brought down to a number of triangles: how many each part keeps, and how far it is then off. */
  simplify: { ask: { document: AssetDocument; meshes: Meshes; triangles: number }; answer: Simplified['off'] };
  unwrap: {
    ask: { document: AssetDocument; low: Bytes };
    answer: { parts: Bytes; gpu: GpuPart[]; islands: IslandPath[]; second: IslandPath[]; figures: LayoutFigures; png: Bytes; svg: string };
  };
  /** Where the islands of a layout lie, each with which of the document’s places it has, −1 for none. */
  places: { ask: { document: AssetDocument; parts: Bytes }; answer: { island: number; place: IslandPlace; given: number }[] };
  /** What lies round an island of a layout, to be asked while it is moved. */
  around: { ask: { document: AssetDocument; parts: Bytes; part: string; island: number }; answer: GapField };
  /** A layout as a picture to paint on; the second as it is for its own textures. */
  layoutPicture: { ask: { parts: Bytes; size: number; second: boolean; as: 'png' | 'svg' }; answer: { file: Bytes } };
  /** Something measured all over a layout: on the piece, in the tile, and where it is worst. */
  layoutView: {
    ask: { document: AssetDocument; parts: Bytes; kind: LayoutViewKind };
    answer: LayoutView & { drawn: Record<string, DrawnView>; map: Bytes };
  };
  /** An island as a template for artwork: what it will be, or it as a file. */
  template: {
    /** With what the part is called: parts are kept without their names. */
    ask: { parts: Bytes; part: string; name: string; island: number; options: TemplateOptions; as: 'words' | 'svg' | 'pdf' | 'png' };
    answer: { words: string; file: Bytes | null };
  };
  /** Where rays will begin, as lines round each part. */
  cage: {
    ask: { document: AssetDocument; parts: Bytes; meshes: Meshes };
    answer: { id: string; placements: Mat4[]; lines: Float32Array }[];
  };
  /** A bake at preview size, judged. What follows from the meshes alone is kept for the next one. */
  bakePreview: { ask: { document: AssetDocument; laid: Bytes; meshes: Meshes }; answer: BakeResult };
  /** What previews keep, made before the first is wanted. */
  bakeWarm: { ask: { document: AssetDocument; laid: Bytes; meshes: Meshes }; answer: null };
  /** One rectangle of one map at its full size. */
  bakeWindow: { ask: { document: AssetDocument; laid: Bytes; meshes: Meshes; rect: TileRect; map: BakeFile }; answer: WindowBaked };
  /** How the seams of a bake show under the shot’s lamps. */
  seamsLit: { ask: { document: AssetDocument; laid: Bytes; seams: readonly SeamShown[] }; answer: SeamsLit };
  /** How parts and the high meshes brought for them lie to each other. */
  pairs: { ask: { document: AssetDocument; parts: Bytes; meshes: Meshes }; answer: MeasuredPair[] };
  /** A picture that the browser can’t read itself: four bytes a texel. */
  texels: { ask: { name: string; bytes: Bytes }; answer: { width: number; height: number; rgba: Uint8ClampedArray<ArrayBuffer> } };
  /** Pictures that came with files, measured on the parts as they were formed. */
  cameJudged: {
    ask: { document: AssetDocument; parts: Bytes; pictures: CamePictures; wanted: number };
    answer: CameMeasured[];
  };
  /** About how many places gathering will read. */
  gatherForecast: { ask: { document: AssetDocument; parts: Bytes; density: number | null }; answer: { places: number } };
  gatherPrepare: {
    ask: { document: AssetDocument; formed: Bytes; laid: Bytes; pictures: CamePictures; set: GatherSet };
    answer: { prepared: PreparedGather; gathered: Gathered; places: number };
  };
  /** Strips out of a list that all share, each with what was counted; fewer where it was stopped. */
  gatherBands: {
    ask: { prepared: PreparedGather; gathered: Gathered; bands: Int32Array; next: Int32Array };
    answer: { band: number; counts: BandCounts }[];
  };
  gatherFinish: {
    ask: { document: AssetDocument; prepared: PreparedGather; gathered: Gathered; counts: BandCounts; seconds: number };
    answer: GatherResult;
  };
  /** Where a photograph was taken from, and what it says of sizes; `bounds` of the part whose corners are marked. */
  photoSolved: { ask: { photo: Photo; bounds: Bounds | null }; answer: PhotoSolved };
  /** Photographs are unpacked by the browser, in the worker. */
  projectPrepare: {
    ask: { document: AssetDocument; laid: Bytes; photos: { id: string; bytes: Bytes }[] };
    answer: { prepared: PreparedProject; projected: Projected };
  };
  projectBands: {
    ask: { prepared: PreparedProject; projected: Projected; bands: Int32Array; next: Int32Array };
    answer: { band: number; counts: BandCounts }[];
  };
  projectFinish: {
    ask: { document: AssetDocument; prepared: PreparedProject; projected: Projected; counts: BandCounts; seconds: number };
    answer: ProjectResult;
  };
  /** A gathered piece, or one with photographs laid on, as the plate draws it, on the layout that was drawn to. */
  gathered: { ask: { document: AssetDocument; laid: Bytes; figures: SetFigures }; answer: { gpu: GpuPart[]; islands: IslandPath[] } };
  givenBack: { ask: { document: AssetDocument; parts: Bytes; strays: readonly IdStray[] }; answer: Command[] };
  prepare: { ask: { document: AssetDocument; laid: Bytes; meshes: Meshes }; answer: { bake: PreparedBake; texels: Texels } };
  /** Bands out of a list that all share, each with what was counted. */
  bands: {
    ask: { prepared: PreparedBake['prepared']; texels: Texels; bands: Int32Array; next: Int32Array };
    answer: { band: number; counts: Counts }[];
  };
  finish: {
    ask: { document: AssetDocument; bake: PreparedBake; texels: Texels; laid: Bytes; seconds: number };
    answer: BakeResult;
  };
  export: {
    ask: {
      document: AssetDocument;
      laid: Bytes;
      normal: Bytes | null;
      occlusion: Bytes | null;
      pictures: CamePictures;
      gathered: GatheredSet | null;
    };
    answer: { glb: Bytes; gpuVertices: number };
  };
  /** The ground of a set at preview size, in shared memory. */
  ground: { ask: { document: AssetDocument; laid: Bytes; maps: BakedMaps; size: number }; answer: PreparedSurface };
  /** A set at preview size, on the ground that the worker holds: pictures of four bytes a texel. */
  look: {
    ask: { materials: Material[]; printing: Printing | null };
    answer: {
      size: number;
      baseColour: Uint8Array;
      orm: Uint8Array;
      normal: Uint8Array | null;
      printed: PrintedFigures | null;
      /** The border of the print that is looked at, on its part. */
      border: { part: string; lines: Float32Array } | null;
    };
  };
  /** What lies under a print, as a sheet to paint on. @param dpi of a PNG */
  printTemplate: {
    ask: { parts: Bytes; document: PrintedDocument; print: string; as: 'svg' | 'pdf' | 'png'; dpi: number };
    answer: { file: Bytes };
  };
  /** An artwork by itself: how large it is of its own accord, mm, where it says so; and a small picture of it, four bytes a pixel. */
  artwork: {
    ask: { artwork: Artwork; name: string; files: Files };
    answer: { size: { width: number; height: number } | null; width: number; height: number; rgba: Uint8Array; alpha: boolean };
  };
  /** Strokes as they were drawn over parts, as they are kept. */
  strokes: { ask: { parts: Bytes; drawn: DrawnStroke[] }; answer: Stroke[] };
  /** A material with its layers on a ball, as a picture laid round it. */
  ball: { ask: { material: Material; seed: number }; answer: { size: number; baseColour: Uint8Array; orm: Uint8Array } };
  /** @param over maps that are asked for; those that the prints ask for when absent */
  composePrepare: { ask: { document: AssetDocument; laid: Bytes; maps: BakedMaps; files: Files; over?: Over }; answer: SetJob };
  /** Strips out of a list that all share, each with what was counted. */
  composeStrips: { ask: { job: SetJob; next: Int32Array }; answer: { strip: number; counts: ComposeCounts }[] };
  composeFinish: {
    ask: { job: SetJob; strips: readonly ComposeCounts[]; maps: BakedMaps; seconds: number };
    answer: { figures: SurfaceFigures; files: SurfaceFiles };
  };
  /** One of several sets on the ground that the worker holds, a {@link SharedSet}. */
  composeVariant: {
    ask: { document: AssetDocument; files: Files; seconds: number };
    answer: { figures: SurfaceFigures; files: SurfaceFiles };
  };
  contactSheet: { ask: { pictures: ContactPicture[] }; answer: { png: Bytes } };
  /** A piece as its card shows it, with the files of its artworks. */
  card: { ask: { document: AssetDocument; parts: Bytes; files: Files }; answer: { png: Bytes | null } };
  light: { ask: { document: AssetDocument; parts: Bytes; composed: boolean }; answer: StageView };
  scene: {
    ask: { document: AssetDocument; parts: Bytes; set: SetFiles };
    answer: { scene: Scene; solved: SolvedStage; note: string | null };
  };
  /** A tile of the scene that the worker holds. */
  tile: { ask: { pass: Pass }; answer: Awaited<ReturnType<Tracer['trace']>> };
  /** The picture so far, and its noise. `full` also as a PNG. */
  develop: {
    ask: { film: Film; development: Development; samples: number; png: boolean };
    answer: { rgba: Uint8ClampedArray<ArrayBuffer>; noise: number; png: Bytes | null; clippedShare: number; heldBackShare: number };
  };
  handoff: {
    /** Each in a folder of its own, where there are several; with a sheet of pictures beside them. */
    ask: { pieces: { state: AssetState; parts: Bytes; maps: HandoffMaps }[]; pictures: ContactPicture[]; madeOn: string };
    /** With what its further levels took, s. */
    answer: { zip: Bytes; files: { name: string; bytes: number; what: string }[]; levelSeconds: number };
  };
  /** The longer look that comes after forming. */
  inspect: { ask: { document: AssetDocument; meshes: Meshes }; answer: Look };
  /** A view, and what the plate draws of it, by part. */
  view: { ask: { document: AssetDocument; meshes: Meshes; kind: ViewKind }; answer: { view: View; drawn: Record<string, DrawnView> } };
  /** What a clicked face belongs to, in the asset's space. */
  face: { ask: { parts: Bytes; part: string; face: number; point: [number, number, number]; copy: number }; answer: Picked };
  /** Lets parts down together onto the others. */
  rest: { ask: { parts: Bytes; ids: string[] }; answer: { by: Mat4; contacts: number; gap: number; tipsAt: number } };
  /** What a plane cuts of formed parts. */
  section: { ask: { parts: Bytes; plane: Plane }; answer: PartSection[] };
  /** The shade of parts on the ground below them, as the plate draws it. */
  shade: { ask: { parts: Standing[] }; answer: GroundShade | null };
  fix: {
    ask: { document: AssetDocument; meshes: Meshes; finding: Finding; fix: FixId; newId: string };
    answer: { part: string; mesh: Bytes; triangles: number; placements?: Mat4[]; what: string } | { commands: Command[] };
  };
  /** The report of everything found, as the command line prints it. */
  report: { ask: { document: AssetDocument; meshes: Meshes; file: string }; answer: { json: string; text: string } };
  /** The asset as one file. */
  pack: { ask: { document: AssetDocument; meshes: Meshes }; answer: Bytes };
  /** Levels for smaller screen heights. */
  levels: { ask: { document: AssetDocument; meshes: Meshes }; answer: Level[] };
}
export type Kind = keyof Work;

/** What many requests are about: each worker is handed it once, and keeps it until it is handed another. */
export interface Held<T> {
  readonly id: number;
  readonly value: T;
}

export interface Ask<K extends Kind = Kind> {
  id: number;
  kind: K;
  ask: Work[K]['ask'];
  /** What the request is about; without its value where the worker has it already. */
  held?: { id: number; value?: unknown };
  /** Set to 1 to stop: a busy worker reads nothing else. */
  cancel: Int32Array;
  /** Where the worker writes in memory that all share. */
  lane: number;
}

export type Answer =
  | { id: number; type: 'progress'; share: number; words: string }
  | { id: number; type: 'done'; answer: unknown }
  | { id: number; type: 'error'; code: string; message: string };
