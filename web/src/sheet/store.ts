'use client';

import type { Budget } from '@wellmorph/core/form/budget/solve';
import type { Finding, FixId } from '@wellmorph/core/inspect/finding';
import { FIX_NAMES } from '@wellmorph/core/inspect/finding';
import type { BakeFigures } from '@wellmorph/core/pipeline/bake';
import { applyCommand, type Command } from '@wellmorph/core/pipeline/commands';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import type { Ledger } from '@wellmorph/core/pipeline/inspect';
import { findingsHash, resultHash, type Stage } from '@wellmorph/core/pipeline/results';
import type { LayoutFigures } from '@wellmorph/core/uv/measure';
import { create } from 'zustand';
import type { AssetState } from '@/server/db/assets';
import type { StoredResult } from '@/server/db/results';
import type { NewTrial, Trial } from '@/server/db/trials';
import { pool, type Running, WorkError } from '@/workers/pool';
import type { Bytes, GpuPart, IslandPath, Meshes } from '@/workers/protocol';
import { ApiError, blob, get, putBlob, send, upload } from './api';

/** What a stage came to, with the hash of what it was made from. */
export interface FormView {
  hash: string;
  parts: Bytes;
  gpu: GpuPart[];
  ledger: Ledger;
  findings: Finding[];
  neededTriangles: number;
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
}

export interface JobView {
  what: 'solve' | 'unwrap' | 'bake' | 'export' | 'fix' | 'import';
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
  high: { hash: string; gpu: GpuPart[]; triangles: number } | null;
  budget: Budget | null;
  job: JobView | null;
  notices: Notice[];
  selected: { part: string | null; step: string | null; island: { part: string; island: number } | null; finding: string | null };
}

export const useSheet = create<SheetState>(() => empty());

function empty(): SheetState {
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
    high: null,
    budget: null,
    job: null,
    notices: [],
    selected: { part: null, step: null, island: null, finding: null },
  };
}

const set = useSheet.setState;
const now = useSheet.getState;
let noticeId = 1;

export function notify(text: string, level: Notice['level'] = 'info'): void {
  const id = noticeId++;
  set((s) => ({ notices: [...s.notices.slice(-3), { id, level, text }] }));
  setTimeout(() => set((s) => ({ notices: s.notices.filter((n) => n.id !== id) })), level === 'error' ? 12_000 : 5000);
}
export const dismiss = (id: number): void => set((s) => ({ notices: s.notices.filter((n) => n.id !== id) }));

const sentence = (error: unknown): string =>
  error instanceof ApiError || error instanceof WorkError ? error.message : 'Something went wrong; nothing was changed.';

// ── opening ──────────────────────────────────────────────────────────────────────────────────────────────────────────────

interface Opened extends AssetState {
  results: StoredResult[];
  trials: Trial[];
}

/** Opens an asset: its document, and whatever its stages came to. Nothing that is stored is computed again. */
export async function openAsset(id: string): Promise<void> {
  if (now().id === id) return;
  set({ ...empty(), id });
  queue.length = 0;
  try {
    const opened = await get<Opened>(`/api/assets/${id}`);
    if (now().id !== id) return;
    lastThumbnail = opened.thumbnail;
    set({ document: opened.document, version: opened.version, history: opened.history, trials: opened.trials });
    await restore(opened);
  } catch (error) {
    if (now().id === id) set({ missing: sentence(error) });
  }
}

async function restore(opened: Opened): Promise<void> {
  const of = (stage: Stage) => opened.results.find((r) => r.stage === stage);
  const form = of('form');
  if (form && form.hash === resultHash(opened.document, 'form')) {
    const parts = await blob(form.blobs.parts);
    const { gpu } = await pool.run('show', { parts }).done;
    const { about, ...figures } = form.figures as Pick<FormView, 'ledger' | 'findings' | 'neededTriangles'> & { about?: string };
    if (now().id === opened.id) set({ form: { hash: form.hash, parts, gpu, ...figures } });
    // The same form, but something was waived or a limit set since it was looked over.
    if (about !== findingsHash(opened.document)) void refreshForm();
  } else void refreshForm();
  const layout = of('unwrap');
  if (layout) {
    const parts = await blob(layout.blobs.parts);
    const shown = await pool.run('show', { parts }).done;
    if (now().id === opened.id)
      set({
        layout: {
          hash: layout.hash,
          parts,
          ...shown,
          figures: layout.figures as LayoutFigures,
          png: layout.blobs.png,
          svg: layout.blobs.svg,
        },
      });
  }
  const bake = of('bake');
  if (bake && now().id === opened.id)
    set({
      bake: {
        hash: bake.hash,
        figures: bake.figures as BakeFigures,
        normal: bake.blobs.normal ?? null,
        occlusion: bake.blobs.occlusion ?? null,
        glbNormal: bake.blobs.glbNormal ?? null,
      },
    });
}

/** Whether a stage's result was made from the document as it is now. */
export function isFresh(document: AssetDocument | null, view: { hash: string } | null, stage: Stage): boolean {
  return Boolean(document && view && view.hash === resultHash(document, stage));
}

// ── editing ──────────────────────────────────────────────────────────────────────────────────────────────────────────────

/** Changes waiting to be stored, oldest first. Shown as saved only when this is empty. */
const queue: Command[] = [];
let pumping: Promise<void> | null = null;

/** Applies a change at once and stores it in order. A change that can't be applied says why and does nothing. */
export function dispatch(command: Command): boolean {
  const { document } = now();
  if (!document) return false;
  try {
    set({ document: applyCommand(document, command).document, saving: 'saving' });
  } catch (error) {
    notify((error as Error).message, 'error');
    return false;
  }
  queue.push(command);
  void pump();
  void refreshForm();
  return true;
}

function pump(): Promise<void> {
  pumping ??= (async () => {
    const { id } = now();
    while (queue.length > 0 && now().id === id) {
      try {
        const { version } = await send<{ version: number }>('POST', `/api/assets/${id}/edits`, {
          baseVersion: now().version,
          command: queue[0],
        });
        queue.shift();
        set({ version });
      } catch (error) {
        if (error instanceof ApiError && error.status === 0) {
          set({ saving: 'unsaved' });
          await new Promise((r) => setTimeout(r, 2000));
          continue;
        }
        queue.length = 0;
        notify(sentence(error), 'error');
        await reload();
        break;
      }
    }
    if (now().id === id) set({ saving: queue.length > 0 ? 'unsaved' : 'saved' });
  })().finally(() => {
    pumping = null;
  });
  return pumping;
}

export const hasUnsaved = (): boolean => queue.length > 0;

/** Takes the server's state of the document, as after a conflict, an undo or an import. */
async function reload(): Promise<void> {
  const { id } = now();
  const opened = await get<Opened>(`/api/assets/${id}`);
  if (now().id !== id) return;
  set({ document: opened.document, version: opened.version, history: opened.history, trials: opened.trials });
  void refreshForm();
}

export async function travel(direction: 'undo' | 'redo'): Promise<void> {
  await pump();
  const { id, version } = now();
  try {
    const { words } = await send<{ words: string }>('POST', `/api/assets/${id}/history`, { baseVersion: version, direction });
    await reload();
    notify(`${direction === 'undo' ? 'Taken back' : 'Brought back'}: ${words}.`);
  } catch (error) {
    notify(sentence(error), error instanceof ApiError && error.code.startsWith('history/') ? 'info' : 'error');
  }
}

export async function readHistory(): Promise<void> {
  await pump();
  const { id } = now();
  const opened = await get<Opened>(`/api/assets/${id}`);
  if (now().id === id) set({ history: opened.history });
}

// ── computing ────────────────────────────────────────────────────────────────────────────────────────────────────────────

async function meshesFor(document: AssetDocument, which: 'low' | 'high' | 'both'): Promise<Meshes> {
  const names = new Set<string>();
  for (const p of document.parts) {
    if (which !== 'high' && p.shape.kind === 'mesh') names.add(p.shape.low.blob);
    if (which !== 'low' && p.high) names.add(p.high.blob);
  }
  return Object.fromEntries(await Promise.all([...names].map(async (n) => [n, await blob(n)] as const)));
}

let formWanted = false;
/** Forms the low meshes again when the document has moved on; one run at a time, the latest state wins. */
async function refreshForm(): Promise<void> {
  formWanted = true;
  if (now().forming) return;
  set({ forming: true });
  try {
    while (formWanted) {
      formWanted = false;
      const { id, document, form } = now();
      if (!document || !id) break;
      const hash = resultHash(document, 'form');
      const limitsOnly = form?.hash === hash;
      const made = await pool.run('form', { document, meshes: await meshesFor(document, 'low'), thumbnail: !limitsOnly }).done;
      if (now().id !== id) break;
      const { thumbnail, ...view } = made;
      set({ form: { hash, ...view } });
      if (!formWanted) await storeForm(id, hash, findingsHash(document), view, thumbnail);
    }
  } catch (error) {
    notify(sentence(error), 'error');
  } finally {
    set({ forming: false });
  }
}

async function storeForm(id: string, hash: string, about: string, view: Omit<FormView, 'hash'>, thumbnail: Bytes | null): Promise<void> {
  try {
    const parts = await putBlob(view.parts, 'parts');
    const picture = thumbnail ? await putBlob(thumbnail, 'png') : undefined;
    const { ledger, findings, neededTriangles } = view;
    await send('PUT', `/api/assets/${id}/results/form`, {
      hash,
      figures: { ledger, findings, neededTriangles, about },
      blobs: { parts },
      ...(picture && { thumbnail: picture }),
    });
    lastThumbnail = picture ?? lastThumbnail;
  } catch {
    // A result can be made again; edits are what must not be lost, and they say so themselves.
  }
}
let lastThumbnail: string | null = null;

/** Runs one job at a time with progress and cancel; says what went wrong in a sentence. */
async function job<T>(
  what: JobView['what'],
  work: (report: (share: number, words: string) => void, hold: (running: { cancel(): void }) => void) => Promise<T>,
): Promise<T | null> {
  if (now().job) {
    notify('Something is being computed already; wait for it or stop it.');
    return null;
  }
  set({ job: { what, share: 0, words: '', startedAt: Date.now() } });
  try {
    return await work(
      (share, words) => set((s) => ({ job: s.job && { ...s.job, share: Math.max(share, s.job.share), words: words || s.job.words } })),
      (running) => set((s) => ({ job: s.job && { ...s.job, cancel: () => running.cancel() } })),
    );
  } catch (error) {
    const cancelled = error instanceof WorkError && error.code === 'cancelled';
    notify(cancelled ? 'Stopped, as asked. Nothing was changed.' : sentence(error), cancelled ? 'info' : 'error');
    return null;
  } finally {
    set({ job: null });
  }
}

async function addTrial(trial: Omit<NewTrial, 'thumbnail'>): Promise<void> {
  const { id } = now();
  try {
    const made = await send<Trial>('POST', `/api/assets/${id}/trials`, { ...trial, ...(lastThumbnail && { thumbnail: lastThumbnail }) });
    if (now().id === id) set((s) => ({ trials: [made, ...s.trials] }));
  } catch (error) {
    notify(`The trial could not be kept: ${sentence(error)}`, 'error');
  }
}

/** Asks the solver; its counts are offered, not taken, until {@link acceptBudget}. */
export async function solve(): Promise<void> {
  const { document } = now();
  if (!document) return;
  const start = performance.now();
  const budget = await job('solve', async (_report, hold) => {
    const running = pool.run('solve', { document });
    hold(running);
    return running.done;
  });
  if (!budget) return;
  set({ budget });
  await addTrial({
    stage: 'form',
    title: `Solved to ${document.brief.limits.triangles}`,
    settings: { limit: document.brief.limits.triangles, locked: Object.keys(document.form.locks).length },
    figures: { triangles: budget.triangles, worstMm: budget.worstMm, worst: budget.worstLabel },
    milliseconds: Math.round(performance.now() - start),
  });
}

export function acceptBudget(): void {
  const { budget } = now();
  if (budget && dispatch({ type: 'form.counts', counts: budget.counts, triangles: budget.triangles })) set({ budget: null });
}
export const dropBudget = (): void => set({ budget: null });

/** The form result of the document as it is now, waiting for a run under way. */
async function currentForm(): Promise<FormView | null> {
  const { document } = now();
  if (!document) return null;
  if (!isFresh(document, now().form, 'form')) await refreshForm();
  for (let i = 0; i < 600 && now().forming; i++) await new Promise((r) => setTimeout(r, 50));
  return now().form;
}

export async function runUnwrap(): Promise<LayoutView | null> {
  const { id, document } = now();
  if (!document || !id) return null;
  const start = performance.now();
  return job('unwrap', async (report, hold) => {
    const form = await currentForm();
    if (!form || form.gpu.length === 0) throw new WorkError('unwrap/empty', 'There is no surface to unwrap yet.');
    const running = pool.run('unwrap', { document, low: form.parts }, report);
    hold(running);
    const made = await running.done;
    const hash = resultHash(document, 'unwrap');
    const blobs = { parts: await putBlob(made.parts, 'parts'), png: await putBlob(made.png, 'png'), svg: await putBlob(made.svg, 'svg') };
    await send('PUT', `/api/assets/${id}/results/unwrap`, { hash, figures: made.figures, blobs });
    const view: LayoutView = {
      hash,
      parts: made.parts,
      gpu: made.gpu,
      islands: made.islands,
      figures: made.figures,
      png: blobs.png,
      svg: blobs.svg,
    };
    if (now().id === id) set((s) => ({ layout: view, selected: { ...s.selected, island: null } }));
    const { islands, stretchL2, coverage, density } = made.figures;
    await addTrial({
      stage: 'unwrap',
      title: `Padding ${document.unwrap.padding}, ${document.brief.limits.textureSize} px`,
      settings: { ...document.unwrap, size: document.brief.limits.textureSize },
      figures: { islands, stretchL2, coverage, density },
      milliseconds: Math.round(performance.now() - start),
    });
    return view;
  });
}

/** Bakes in as many workers as there are: one prepares, all cast, one finishes. */
export async function runBake(): Promise<void> {
  const { id, document } = now();
  if (!document || !id) return;
  if (!isFresh(document, now().layout, 'unwrap') && !(await runUnwrap())) return;
  await job('bake', async (report, hold) => {
    const layout = now().layout as LayoutView;
    const started = performance.now();
    let running: Running<unknown>[] = [];
    hold({
      cancel: () => {
        for (const r of running) r.cancel();
      },
    });
    const prepare = pool.run('prepare', { document, laid: layout.parts, meshes: await meshesFor(document, 'both') }, (s, w) =>
      report(0.15 * s, w),
    );
    running = [prepare];
    const { bake, texels } = await prepare.done;
    const next = new Int32Array(new SharedArrayBuffer(4));
    const casting = Array.from({ length: Math.max(1, Math.min(pool.size, navigator.hardwareConcurrency || 2)) }, () =>
      pool.run('bands', { prepared: bake.prepared, texels, next }, (s, w) => report(0.15 + 0.75 * s, w)),
    );
    running = casting;
    const counts = await Promise.all(casting.map((c) => c.done));
    for (const c of counts) for (const k of ['rays', 'missed', 'back', 'samples'] as const) texels.counts[k] += c[k];
    const finish = pool.run(
      'finish',
      { document, bake, texels, laid: layout.parts, seconds: (performance.now() - started) / 1000 },
      (s, w) => report(0.9 + 0.1 * s, w),
    );
    running = [finish];
    const made = await finish.done;
    const hash = resultHash(document, 'bake');
    const keep = async (png: Bytes | null) => (png ? await putBlob(png, 'png') : null);
    const [normal, occlusion, glbNormal] = [await keep(made.normal), await keep(made.occlusion), await keep(made.glbNormal)];
    const blobs = Object.fromEntries(Object.entries({ normal, occlusion, glbNormal }).filter((e): e is [string, string] => e[1] !== null));
    await send('PUT', `/api/assets/${id}/results/bake`, { hash, figures: made.figures, blobs });
    if (now().id === id) set({ bake: { hash, figures: made.figures, normal, occlusion, glbNormal } });
    const b = document.bake;
    await addTrial({
      stage: 'bake',
      title: b.distances === 'measured' ? `Measured, ${b.samples} × ${b.samples}` : `Uniform ${b.frontMm} / ${b.rearMm}`,
      settings: { ...b, size: document.brief.limits.textureSize },
      figures: {
        missedPercent: made.figures.missedShare * 100,
        meanDegrees: made.figures.judgement?.mean ?? 0,
        p95Degrees: made.figures.judgement?.p95 ?? 0,
        worstDegrees: made.figures.judgement?.worst ?? 0,
      },
      milliseconds: Math.round(performance.now() - started),
    });
  });
}

/** The high meshes for the plate; formed when first looked at. */
export async function showHigh(): Promise<void> {
  const { document, high, id } = now();
  if (!document) return;
  const hash = JSON.stringify([
    document.parts.map((p) => [p.id, p.shape, p.high?.blob, p.move, p.turnDegrees]),
    document.form.highToleranceMm,
  ]);
  if (high?.hash === hash) return;
  try {
    const made = await pool.run('high', { document, meshes: await meshesFor(document, 'high') }).done;
    if (now().id === id) set({ high: { hash, ...made } });
  } catch (error) {
    notify(sentence(error), 'error');
  }
}

/** The files of the hand-over so far: GLB with maps, the maps, the layout. */
export async function exportFiles(): Promise<{ name: string; bytes: Bytes }[] | null> {
  const { document } = now();
  if (!document) return null;
  return job('export', async (report, hold) => {
    const { layout, bake } = now();
    const freshLayout = isFresh(document, layout, 'unwrap') ? layout : null;
    const freshBake = isFresh(document, bake, 'bake') ? bake : null;
    const form = await currentForm();
    if (!form || form.gpu.length === 0) throw new WorkError('export/empty', 'There is nothing to export yet.');
    report(0.2, 'writing the GLB');
    const normal = freshBake?.glbNormal ? await blob(freshBake.glbNormal) : null;
    const occlusion = freshBake?.occlusion ? await blob(freshBake.occlusion) : null;
    const running = pool.run('export', { document, laid: freshLayout?.parts ?? form.parts, normal, occlusion });
    hold(running);
    const { glb } = await running.done;
    const base = slug(document.name);
    const files: { name: string; bytes: Bytes }[] = [{ name: `${base}.glb`, bytes: glb }];
    if (freshBake?.normal) files.push({ name: `${base}_normal.png`, bytes: await blob(freshBake.normal) });
    if (occlusion) files.push({ name: `${base}_occlusion.png`, bytes: occlusion });
    if (freshLayout)
      files.push(
        { name: `${base}_layout.png`, bytes: await blob(freshLayout.png) },
        { name: `${base}_layout.svg`, bytes: await blob(freshLayout.svg) },
      );
    return files;
  });
}
const slug = (name: string): string =>
  name
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '') || 'asset';

export function download(name: string, bytes: Bytes): void {
  const type = name.endsWith('.png') ? 'image/png' : name.endsWith('.svg') ? 'image/svg+xml' : 'model/gltf-binary';
  const url = URL.createObjectURL(new Blob([bytes], { type }));
  const a = window.document.createElement('a');
  a.href = url;
  a.download = name;
  a.click();
  setTimeout(() => URL.revokeObjectURL(url), 5000);
}

// ── findings, high meshes, trials ────────────────────────────────────────────────────────────────────────────────────────

export async function applyFixTo(finding: Finding, fix: FixId): Promise<void> {
  const part = now().document?.parts.find((p) => p.id === finding.part);
  if (part?.shape.kind !== 'mesh') return;
  const { low } = part.shape;
  await job('fix', async (_report, hold) => {
    const running = pool.run('fix', { mesh: await blob(low.blob), fix });
    hold(running);
    const { mesh, triangles } = await running.done;
    const hash = await putBlob(mesh, 'mesh');
    dispatch({ type: 'mesh.replace', part: part.id, low: { blob: hash, triangles }, what: FIX_NAMES[fix].toLowerCase() });
  });
}

export async function addHighFile(files: readonly File[], unit: string, licence: string): Promise<void> {
  await pump();
  const { id } = now();
  const form = new FormData();
  for (const f of files) form.append('file', f);
  form.append('unit', unit);
  form.append('licence', licence);
  await job('import', async (report) => {
    report(0.3, 'reading the high mesh');
    const { paired, of } = await upload<{ paired: number; of: number }>(`/api/assets/${id}/high`, form);
    await reload();
    notify(`${paired} of ${of} parts found their high mesh.`);
  });
}

export async function choosePair(part: string, high: string | null): Promise<void> {
  await pump();
  const { id, version } = now();
  try {
    await send('POST', `/api/assets/${id}/pair`, { baseVersion: version, part, high });
    await reload();
  } catch (error) {
    notify(sentence(error), 'error');
  }
}

export async function judgeTrial(trial: string, change: { verdict?: string; note?: string }): Promise<void> {
  const { id } = now();
  try {
    const made = await send<Trial>('PATCH', `/api/assets/${id}/trials/${trial}`, change);
    set((s) => ({ trials: s.trials.map((t) => (t.id === trial ? made : t)) }));
  } catch (error) {
    notify(sentence(error), 'error');
  }
}

/** Chooses a part, and an island of its layout when one was hit. */
export const pickIsland = (part: string, island: number | null): void =>
  select({ part, island: island === null ? null : { part, island } });
export const select = (change: Partial<SheetState['selected']>): void => set((s) => ({ selected: { ...s.selected, ...change } }));
