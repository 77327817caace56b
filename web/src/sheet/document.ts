import type { BakeFigures } from '@wellmorph/core/pipeline/bake';
import { applyCommand, type Command } from '@wellmorph/core/pipeline/commands';
import type { Look } from '@wellmorph/core/pipeline/look';
import type { RenderFigures } from '@wellmorph/core/pipeline/render';
import { findingsHash, resultHash, type Stage } from '@wellmorph/core/pipeline/results';
import type { SurfaceFigures } from '@wellmorph/core/pipeline/surface';
import type { LayoutFigures } from '@wellmorph/core/uv/measure';
import type { AssetState } from '@/server/db/assets';
import type { StoredResult } from '@/server/db/results';
import type { Trial } from '@/server/db/trials';
import { pool } from '@/workers/pool';
import { ApiError, blob, get, send } from './api';
import { refreshForm, setPicture } from './forming';
import { empty, type FormView, notify, now, sentence, set } from './state';

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
    setPicture(opened.thumbnail);
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
    const { gpu } = await pool.run('show', { parts });
    const { about, ...figures } = form.figures as Pick<
      FormView,
      'ledger' | 'findings' | 'neededTriangles' | 'marks' | 'strewn' | 'steps' | 'standings'
    > & {
      about?: string;
    };
    const aids = form.blobs.aids ? await blob(form.blobs.aids) : new Uint8Array();
    const aidGpu = form.blobs.aids ? (await pool.run('show', { parts: aids })).gpu : [];
    if (now().id === opened.id) set({ form: { hash: form.hash, parts, gpu, aids, aidGpu, ...figures } });
    // The same form, but something was waived or a limit set since it was looked over.
    if (about !== findingsHash(opened.document)) void refreshForm();
  } else void refreshForm();
  const look = opened.results.find((r) => r.stage === 'look');
  if (look && now().id === opened.id) set({ look: { hash: look.hash, ...(look.figures as Look) } });
  const layout = of('unwrap');
  if (layout) {
    const parts = await blob(layout.blobs.parts);
    const shown = await pool.run('show', { parts });
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
        curvature: bake.blobs.curvature ?? null,
      },
    });
  const surface = of('surface');
  if (surface && now().id === opened.id) {
    const { baseColour, orm, emissive, validity } = surface.blobs;
    set({
      surface: { hash: surface.hash, figures: surface.figures as SurfaceFigures, baseColour, orm, emissive: emissive ?? null, validity },
    });
  }
  const render = of('render');
  if (render && now().id === opened.id)
    set({ render: { hash: render.hash, figures: render.figures as RenderFigures, png: render.blobs.png } });
}

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

export function pump(): Promise<void> {
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
export async function reload(): Promise<void> {
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
