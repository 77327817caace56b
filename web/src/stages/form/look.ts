import { hashOf } from '@wellmorph/core/hash';
import type { Finding } from '@wellmorph/core/inspect/finding';
import { VIEWS, type ViewKind } from '@wellmorph/core/inspect/views';
import { lookHash, resultHash } from '@wellmorph/core/pipeline/results';
import { useEffect, useMemo } from 'react';
import { allFindings } from '@/sheet/all-findings';
import { send } from '@/sheet/api';
import { meshesFor } from '@/sheet/forming';
import { notify, now, sentence, set, useSheet } from '@/sheet/state';
import { cancelFlag, pool, WorkError } from '@/workers/pool';

/** A change is given this long to be followed by another before the longer look begins, ms. */
const PAUSE = 350;

let running: { hash: string; cancel: Int32Array } | null = null;

/** Takes the longer look at what is formed now; one under way at something older is stopped. */
async function lookNow(): Promise<void> {
  const { document, id } = now();
  if (!document) return;
  const hash = lookHash(document);
  if (now().look?.hash === hash || running?.hash === hash) return;
  if (running) Atomics.store(running.cancel, 0, 1);
  const mine = { hash, cancel: cancelFlag() };
  running = mine;
  set({ looking: 0 });
  try {
    const found = await pool.run(
      'inspect',
      { document, meshes: await meshesFor(document, 'low') },
      (share) => running === mine && set({ looking: share }),
      mine.cancel,
    );
    if (now().id === id && running === mine) {
      set({ look: { hash, ...found } });
      // It can be taken again: what is lost is only the time it takes.
      await send('PUT', `/api/assets/${id}/results/look`, { hash, figures: found, blobs: {} }).catch(() => {});
    }
  } catch (error) {
    if (!(error instanceof WorkError && error.code === 'cancelled')) notify(sentence(error), 'error');
  } finally {
    if (running === mine) {
      running = null;
      set({ looking: null });
    }
  }
}

/** Keeps the longer look up to date while it is on screen. */
export function useLook(): void {
  const document = useSheet((s) => s.document);
  const formed = useSheet((s) => s.form?.hash);
  useEffect(() => {
    if (!document || formed !== resultHash(document, 'form')) return;
    const timer = setTimeout(() => void lookNow(), PAUSE);
    return () => clearTimeout(timer);
  }, [document, formed]);
}

/** Everything found about the piece as it is. */
export function useFindings(): readonly Finding[] {
  const document = useSheet((s) => s.document);
  const formed = useSheet((s) => s.form?.findings);
  const look = useSheet((s) => s.look);
  return useMemo(() => (document ? allFindings(document, formed ?? [], look) : []), [document, formed, look]);
}

let viewing: Int32Array | null = null;

/** Measures a view of what is formed now; a view asked for later stops one under way. */
export async function showView(kind: ViewKind): Promise<void> {
  const { document, id } = now();
  if (!document) return;
  const hash = hashOf([kind, lookHash(document), document.brief]);
  if (now().view?.hash === hash) return;
  if (viewing) Atomics.store(viewing, 0, 1);
  const cancel = cancelFlag();
  viewing = cancel;
  try {
    const made = await pool.run('view', { document, meshes: await meshesFor(document, 'low'), kind }, undefined, cancel);
    if (now().id === id && viewing === cancel) set({ view: { hash, ...made } });
  } catch (error) {
    if (!(error instanceof WorkError && error.code === 'cancelled')) notify(sentence(error), 'error');
  }
}

/** The views in the order they are offered. */
export const VIEW_LIST = Object.entries(VIEWS) as [ViewKind, string][];
