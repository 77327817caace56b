import { gatherOf } from '@wellmorph/core/pipeline/document';
import type { GatherCheck } from '@wellmorph/core/pipeline/gather-figures';
import type { AssetSession } from '@/session/session';

/** Gathers the materials of the piece; what it stands on is made first where it is missing or stale. The piece then goes out gathered. */
export async function runGather(session: AssetSession): Promise<boolean> {
  const made = await session.job('gather', (run) => session.stage(run, 'gather'));
  if (made && session.document && !gatherOf(session.document).on) session.dispatch({ type: 'gather.set', patch: { on: true } });
  return made !== null;
}

/** Mends one of the usual mistakes. */
export function mendGather(session: AssetSession, fix: NonNullable<GatherCheck['fix']>): void {
  const { document } = session;
  if (!document) return;
  const { size } = gatherOf(document);
  const second = document.unwrap.second;
  switch (fix) {
    case 'take-all':
      session.dispatch({ type: 'gather.set', patch: { left: [] } });
      break;
    case 'to-first':
      session.dispatch({ type: 'gather.set', patch: { to: 'first' } });
      break;
    case 'to-second':
      session.dispatch({ type: 'gather.set', patch: { to: 'second' } });
      break;
    case 'second-on':
      session.dispatch({ type: 'unwrap.set', patch: { second: { padding: second?.padding ?? 8, on: true, size } } });
      if (gatherOf(document).to !== 'second') session.dispatch({ type: 'gather.set', patch: { to: 'second' } });
  }
}
