import type { Budget } from '@wellmorph/core/form/budget/solve';
import type { Fit, Picked } from '@wellmorph/core/form/fit';
import type { Reach } from '@wellmorph/core/form/select';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import type { FormResult } from '@wellmorph/core/pipeline/form';
import { type Kept, nameOf } from '@wellmorph/core/pipeline/results';
import type { Measured } from '@wellmorph/core/render/forecast';
import type { AssetState } from '@/server/db/assets';
import type { Trial } from '@/server/db/trials';
import type { GpuPart, Work } from '@/workers/protocol';
import type { InView } from './kept';
import type { Refused } from './lane-store';

export type JobKind =
  | 'solve'
  | 'report'
  | 'levels'
  | 'simplify'
  | 'unwrap'
  | 'bake'
  | 'export'
  | 'fix'
  | 'import'
  | 'surface'
  | 'gather'
  | 'project'
  | 'render'
  | 'variants'
  | 'handoff';

/** Something being computed for an asset. */
export interface JobView {
  id: number;
  asset: string;
  assetName: string;
  what: JobKind;
  share: number;
  words: string;
  startedAt: number;
  cancel(): void;
}

/** A picture that grows: the newest development of it, and how it stands. */
export interface Growing {
  /** What it is a picture of: the name of the render result it would be. */
  name: string;
  preview: boolean;
  width: number;
  height: number;
  rgba: Uint8ClampedArray<ArrayBuffer> | null;
  measured: Measured[];
  done: boolean;
}

/** What a click on the piece picks, while something is being picked. */
export interface Picking {
  /** The part that is picked on. */
  part: string | null;
  /** A region's id, `seam`, or the field of a step. */
  what: string | null;
  /** The step whose field it is. */
  step: string | null;
  wants: 'edges' | 'spot' | null;
  reach: Reach;
  /** Takes away instead of adding. */
  remove: boolean;
  /** For spreading: edges sharper than this stop it. */
  degrees: number;
  /** A seam goes along the whole line, not one edge. */
  whole: boolean;
}
/** A part that moves, held somewhere along its way. */
export interface Pose {
  part: string | null;
  at: number;
}

/** Which parts are drawn: all but some, or some alone; the others, where wanted, as lines. */
export interface Shown {
  out: readonly string[];
  only: readonly string[] | null;
  behind: boolean;
}
export const ALL_SHOWN: Shown = { out: [], only: null, behind: false };
/** A plane across an axis, mm along it, that cuts the view open. */
export interface SectionPlane {
  axis: 'x' | 'y' | 'z';
  at: number;
  /** Looked at from the other side. */
  turned: boolean;
}

/** A part that is being set against another by two faces: its own once that was picked. */
export interface Fitting {
  part: string;
  how: Fit;
  /** mm */
  offset: number;
  own: Picked | null;
  /** The form its own face was picked on, by name. */
  of: string | null;
}

export interface Selected {
  part: string | null;
  step: string | null;
  island: { part: string; island: number } | null;
  finding: string | null;
}

/** Everything that one asset’s sheet shows. */
export interface SheetState extends InView {
  id: string;
  /** The piece itself with everything that was asked for, whether the server has it yet or not. */
  piece: AssetDocument | null;
  /** Which of its variants it is looked at as; as itself when null. */
  variant: string | null;
  /** The piece as it is looked at: every stage is of this. */
  document: AssetDocument | null;
  history: AssetState['history'];
  trials: Trial[];
  /** Blob of the piece’s own picture. */
  thumbnail: string | null;
  missing: string | null;
  saving: 'saved' | 'saving' | 'unsaved';
  /** Changes that could not be made as things stood. */
  refused: readonly Refused[];
  forming: boolean;
  high: ({ hash: string } & Pick<FormResult, 'problems' | 'steps'> & { gpu: GpuPart[]; triangles: number }) | null;
  /** How far the longer look under way is, 0…1. */
  looking: number | null;
  /** What the plate measures on the piece. */
  view: ({ hash: string } & Work['view']['answer']) | null;
  budget: Budget | null;
  job: JobView | null;
  growing: Growing | null;
  preview: Growing | null;
  selected: Selected;
  picking: Picking;
  pose: Pose;
  shown: Shown;
  section: SectionPlane | null;
  fitting: Fitting | null;
  /** A snag is being pinned: to the place that was pressed, once one was. */
  pinning: { place: { part: string; at: [number, number, number] } | null } | null;
}

export const emptySheet = (id: string): SheetState => ({
  id,
  piece: null,
  variant: null,
  document: null,
  history: [],
  trials: [],
  thumbnail: null,
  missing: null,
  saving: 'saved',
  refused: [],
  form: null,
  findings: null,
  look: null,
  unwrap: null,
  bake: null,
  surface: null,
  gather: null,
  project: null,
  render: null,
  forming: false,
  high: null,
  looking: null,
  view: null,
  budget: null,
  job: null,
  growing: null,
  preview: null,
  selected: { part: null, step: null, island: null, finding: null },
  picking: { part: null, what: null, step: null, wants: null, reach: 'face', remove: false, degrees: 30, whole: true },
  pose: { part: null, at: 0 },
  shown: ALL_SHOWN,
  section: null,
  fitting: null,
  pinning: null,
});

/** Whether a result in view was made from the document as it is. */
export const isFresh = (document: AssetDocument | null, view: { name: string } | null, kind: Kept): boolean =>
  document !== null && view !== null && view.name === nameOf(document, kind);
