import { projectOf } from '@wellmorph/core/pipeline/document';
import type { ProjectCheck } from '@wellmorph/core/pipeline/project-figures';
import type { AssetSession } from '@/session/session';

/** Lays photographs on the piece as it is now; what they stand on is made first where it is missing or stale. The piece then goes out with them. */
export async function runProject(session: AssetSession): Promise<boolean> {
  const made = await session.job('project', (run) => session.stage(run, 'project'));
  if (made && session.document && !projectOf(session.document).on) session.dispatch({ type: 'project.set', patch: { on: true } });
  return made !== null;
}

/** Mends what was looked for before photographs are laid on. */
export function mendProject(session: AssetSession, fix: NonNullable<ProjectCheck['fix']>): void {
  if (fix === 'take-all') session.dispatch({ type: 'project.set', patch: { left: [] } });
  else session.dispatch({ type: 'unwrap.set', patch: { filed: 'anew' } });
}
