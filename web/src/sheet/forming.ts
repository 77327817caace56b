import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { findingsHash, resultHash } from '@wellmorph/core/pipeline/results';
import { pool } from '@/workers/pool';
import type { Bytes, Meshes } from '@/workers/protocol';
import { blob, putBlob, send } from './api';
import { type FormView, isFresh, notify, now, sentence, set } from './state';

/** The stored meshes an asset's low or high parts need, opened once. */
export async function meshesFor(document: AssetDocument, which: 'low' | 'high' | 'both' | 'all'): Promise<Meshes> {
  const names = new Set<string>();
  for (const p of document.parts) {
    if (which !== 'high' && p.shape.kind === 'mesh') names.add(p.shape.low.blob);
    if (which !== 'low' && p.high) names.add(p.high.blob);
  }
  // Dense meshes that are not paired yet, too.
  if (which === 'all') for (const h of document.highParts) names.add(h.blob);
  return Object.fromEntries(await Promise.all([...names].map(async (n) => [n, await blob(n)] as const)));
}

let formWanted = false;
/** Forms the low meshes again when the document has moved on; one run at a time, the latest state wins. */
export async function refreshForm(): Promise<void> {
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
      const made = await pool.run('form', { document, meshes: await meshesFor(document, 'low'), thumbnail: !limitsOnly });
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
    const { ledger, findings, neededTriangles, marks, strewn, steps, standings } = view;
    const aids = view.aidGpu.length > 0 ? await putBlob(view.aids, 'parts') : undefined;
    await send('PUT', `/api/assets/${id}/results/form`, {
      hash,
      figures: { ledger, findings, neededTriangles, marks, strewn, steps, standings, about },
      blobs: { parts, ...(aids && { aids }) },
      ...(picture && { thumbnail: picture }),
    });
    lastThumbnail = picture ?? lastThumbnail;
  } catch {
    // A result can be made again; edits are what must not be lost, and they say so themselves.
  }
}

/** The picture of the piece as it was last formed, for the trials made of it. */
export const picture = (): string | null => lastThumbnail;
export const setPicture = (hash: string | null): void => {
  lastThumbnail = hash;
};
let lastThumbnail: string | null = null;

/** The form result of the document as it is now, waiting for a run under way. */
export async function currentForm(): Promise<FormView | null> {
  const { document } = now();
  if (!document) return null;
  if (!isFresh(document, now().form, 'form')) await refreshForm();
  for (let i = 0; i < 600 && now().forming; i++) await new Promise((r) => setTimeout(r, 50));
  return now().form;
}
