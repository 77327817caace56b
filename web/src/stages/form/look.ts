import { hashOf } from '@wellmorph/core/hash';
import type { Finding } from '@wellmorph/core/inspect/finding';
import { VIEWS, type ViewKind } from '@wellmorph/core/inspect/views';
import { allFindings } from '@wellmorph/core/pipeline/all-findings';
import { nameOf } from '@wellmorph/core/pipeline/results';
import { useEffect, useMemo } from 'react';
import { afterFirstLook } from '@/plates/first-look';
import { useSession, useSheet } from '@/session/context';
import { Latest } from '@/session/latest';
import { type AssetSession, sentence } from '@/session/session';
import { WorkError } from '@/workers/pool';

/** A change is given this long to be followed by another before the longer look begins, ms. */
const PAUSE = 350;

const wasCancelled = (error: unknown): boolean => error instanceof WorkError && error.code === 'cancelled';

const looks = new Latest();
const views = new Latest();

/** Takes the longer look at what is formed now; one under way at something older is stopped. */
async function lookNow(session: AssetSession): Promise<void> {
  const { document } = session;
  if (!document) return;
  const name = nameOf(document, 'look');
  if (session.state.look?.name === name) return;
  const mine = looks.begin(session, name);
  if (!mine) return;
  session.set({ looking: 0 });
  try {
    await session.stage({ document, cancel: mine.cancel, report: (share) => mine.isLatest() && session.set({ looking: share }) }, 'look');
  } catch (error) {
    if (!wasCancelled(error)) session.notify(sentence(error), 'error');
  } finally {
    if (mine.isLatest()) session.set({ looking: null });
    mine.end();
  }
}

/** Keeps the longer look up to date while it is on screen. */
export function useLook(): void {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const formed = useSheet((s) => s.form?.name);
  useEffect(() => {
    if (!document || formed !== nameOf(document, 'form')) return;
    let end = () => {};
    const timer = setTimeout(() => {
      // It takes the processor from what the piece needs to be drawn.
      end = afterFirstLook(() => void lookNow(session));
    }, PAUSE);
    return () => {
      clearTimeout(timer);
      end();
    };
  }, [session, document, formed]);
}

/** Everything found about the piece as it is. */
export function useFindings(): readonly Finding[] {
  const document = useSheet((s) => s.document);
  const findings = useSheet((s) => s.findings);
  const look = useSheet((s) => s.look);
  return useMemo(() => (document ? allFindings(document, { findings, look }) : []), [document, findings, look]);
}

/** Measures a view of what is formed now; a view asked for later stops one under way. */
export async function showView(session: AssetSession, kind: ViewKind): Promise<void> {
  const { document } = session;
  if (!document) return;
  const hash = hashOf([kind, nameOf(document, 'look'), document.brief]);
  if (session.state.view?.hash === hash) return;
  const mine = views.begin(session, hash);
  if (!mine) return;
  try {
    const ask = { document, meshes: await session.meshes(document, 'low'), kind };
    const made = await session.bench.pool.run('view', ask, undefined, mine.cancel);
    if (mine.isLatest()) session.set({ view: { hash, ...made } });
  } catch (error) {
    if (!wasCancelled(error)) session.notify(sentence(error), 'error');
  } finally {
    mine.end();
  }
}

/** The views in the order they are offered. */
export const VIEW_LIST = Object.entries(VIEWS) as [ViewKind, string][];
