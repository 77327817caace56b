'use client';

import { WellmorphError } from '@wellmorph/core/errors';
import type { Budget } from '@wellmorph/core/form/budget/solve';
import type { Finding } from '@wellmorph/core/inspect/finding';
import type { BakeFigures } from '@wellmorph/core/pipeline/bake';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import type { FormResult } from '@wellmorph/core/pipeline/form';
import type { Ledger } from '@wellmorph/core/pipeline/inspect';
import type { Look } from '@wellmorph/core/pipeline/look';
import type { RenderFigures } from '@wellmorph/core/pipeline/render';
import { resultHash, type Stage } from '@wellmorph/core/pipeline/results';
import type { Standings } from '@wellmorph/core/pipeline/standings';
import type { SurfaceFigures } from '@wellmorph/core/pipeline/surface';
import type { LayoutFigures } from '@wellmorph/core/uv/measure';
import { create } from 'zustand';
import type { AssetState } from '@/server/db/assets';
import type { Trial } from '@/server/db/trials';
import { WorkError } from '@/workers/pool';
import type { Bytes, GpuPart, IslandPath, Work } from '@/workers/protocol';
import { ApiError } from './api';

/** What a stage came to, with the hash of what it was made from. */
export interface FormView {
  hash: string;
  parts: Bytes;
  gpu: GpuPart[];
  ledger: Ledger;
  findings: Finding[];
  neededTriangles: number;
  marks: FormResult['marks'];
  strewn: FormResult['strewn'];
  steps: FormResult['steps'];
  standings: Standings;
  aids: Bytes;
  aidGpu: GpuPart[];
}
export interface LayoutView {
  hash: string;
  parts: Bytes;
  gpu: GpuPart[];
  islands: IslandPath[];
  figures: LayoutFigures;
  png: string;
  svg: string;
}
export interface BakeView {
  hash: string;
  figures: BakeFigures;
  normal: string | null;
  occlusion: string | null;
  glbNormal: string | null;
  curvature: string | null;
}
/** A composed set: figures, and its textures as blobs. */
export interface SurfaceView {
  hash: string;
  figures: SurfaceFigures;
  baseColour: string;
  orm: string;
  emissive: string | null;
  validity: string;
}
export interface RenderView {
  hash: string;
  figures: RenderFigures;
  png: string;
}

export interface JobView {
  what: 'solve' | 'report' | 'levels' | 'simplify' | 'unwrap' | 'bake' | 'export' | 'fix' | 'import' | 'surface' | 'render' | 'handoff';
  share: number;
  words: string;
  startedAt: number;
  cancel?: () => void;
}

export interface Notice {
  id: number;
  level: 'info' | 'error';
  text: string;
}

interface SheetState {
  id: string | null;
  document: AssetDocument | null;
  version: number;
  history: AssetState['history'];
  trials: Trial[];
  missing: string | null;
  saving: 'saved' | 'saving' | 'unsaved';
  form: FormView | null;
  forming: boolean;
  layout: LayoutView | null;
  bake: BakeView | null;
  surface: SurfaceView | null;
  render: RenderView | null;
  high: ({ hash: string } & Pick<FormResult, 'problems' | 'steps'> & { gpu: GpuPart[]; triangles: number }) | null;
  /** The longer look at the low meshes, with what it was made from. */
  look: ({ hash: string } & Look) | null;
  /** How far the look under way is, 0…1. */
  looking: number | null;
  /** What the plate measures on the piece. */
  view: ({ hash: string } & Work['view']['answer']) | null;
  budget: Budget | null;
  job: JobView | null;
  notices: Notice[];
  selected: { part: string | null; step: string | null; island: { part: string; island: number } | null; finding: string | null };
}

export const useSheet = create<SheetState>(() => empty());

export function empty(): SheetState {
  return {
    id: null,
    document: null,
    version: 0,
    history: [],
    trials: [],
    missing: null,
    saving: 'saved',
    form: null,
    forming: false,
    layout: null,
    bake: null,
    surface: null,
    render: null,
    high: null,
    look: null,
    looking: null,
    view: null,
    budget: null,
    job: null,
    notices: [],
    selected: { part: null, step: null, island: null, finding: null },
  };
}

export const set = useSheet.setState;
export const now = useSheet.getState;
let noticeId = 1;

export function notify(text: string, level: Notice['level'] = 'info'): void {
  const id = noticeId++;
  set((s) => ({ notices: [...s.notices.slice(-3), { id, level, text }] }));
  setTimeout(() => set((s) => ({ notices: s.notices.filter((n) => n.id !== id) })), level === 'error' ? 12_000 : 5000);
}
export const dismiss = (id: number): void => set((s) => ({ notices: s.notices.filter((n) => n.id !== id) }));

export const sentence = (error: unknown): string =>
  error instanceof ApiError || error instanceof WorkError || error instanceof WellmorphError
    ? error.message
    : 'Something went wrong; nothing was changed.';

/** Whether a stage's result was made from the document as it is now. */
export function isFresh(document: AssetDocument | null, view: { hash: string } | null, stage: Stage): boolean {
  return Boolean(document && view && view.hash === resultHash(document, stage));
}

/** Chooses a part, and an island of its layout when one was hit. */
export const pickIsland = (part: string, island: number | null): void =>
  select({ part, island: island === null ? null : { part, island } });
export const select = (change: Partial<SheetState['selected']>): void => set((s) => ({ selected: { ...s.selected, ...change } }));
