import type { Texels } from '@wellmorph/core/bake/texels';
import type { Budget } from '@wellmorph/core/form/budget/solve';
import type { Finding, FixId } from '@wellmorph/core/inspect/finding';
import type { Mat4 } from '@wellmorph/core/maths/mat4';
import type { BakeFigures, PreparedBake } from '@wellmorph/core/pipeline/bake';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import type { Ledger } from '@wellmorph/core/pipeline/inspect';
import type { LayoutFigures } from '@wellmorph/core/uv/measure';

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
  /** Edges of the faces: 6 numbers each, mm. */
  edges: Float32Array;
  /** Triangle → island, with a layout. */
  island?: Int32Array;
  triangles: number;
}

/** An island of the layout as a path in the unit square, v down. */
export interface IslandPath {
  part: string;
  island: number;
  path: string;
}

export type Bytes = Uint8Array<ArrayBuffer>;
/** Stored meshes the work needs, by blob. */
export type Meshes = Record<string, Bytes>;

/** Everything a worker can be asked, and what it answers. */
export interface Work {
  form: {
    ask: { document: AssetDocument; meshes: Meshes; thumbnail: boolean };
    answer: { parts: Bytes; gpu: GpuPart[]; ledger: Ledger; findings: Finding[]; neededTriangles: number; thumbnail: Bytes | null };
  };
  show: { ask: { parts: Bytes }; answer: { gpu: GpuPart[]; islands: IslandPath[] } };
  high: { ask: { document: AssetDocument; meshes: Meshes }; answer: { gpu: GpuPart[]; triangles: number } };
  solve: { ask: { document: AssetDocument }; answer: Budget };
  unwrap: {
    ask: { document: AssetDocument; low: Bytes };
    answer: { parts: Bytes; gpu: GpuPart[]; islands: IslandPath[]; figures: LayoutFigures; png: Bytes; svg: string };
  };
  prepare: { ask: { document: AssetDocument; laid: Bytes; meshes: Meshes }; answer: { bake: PreparedBake; texels: Texels } };
  bands: { ask: { prepared: PreparedBake['prepared']; texels: Texels; next: Int32Array }; answer: Texels['counts'] };
  finish: {
    ask: { document: AssetDocument; bake: PreparedBake; texels: Texels; laid: Bytes; seconds: number };
    answer: { figures: BakeFigures; normal: Bytes | null; occlusion: Bytes | null; glbNormal: Bytes | null };
  };
  export: {
    ask: { document: AssetDocument; laid: Bytes; normal: Bytes | null; occlusion: Bytes | null };
    answer: { glb: Bytes; gpuVertices: number };
  };
  fix: { ask: { mesh: Bytes; fix: FixId }; answer: { mesh: Bytes; triangles: number } };
}
export type Kind = keyof Work;

export interface Ask<K extends Kind = Kind> {
  id: number;
  kind: K;
  ask: Work[K]['ask'];
  /** Set to 1 to stop: a busy worker reads nothing else. */
  cancel: Int32Array;
}

export type Answer =
  | { id: number; type: 'progress'; share: number; words: string }
  | { id: number; type: 'done'; answer: unknown }
  | { id: number; type: 'error'; code: string; message: string };
