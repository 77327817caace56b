import { InputError } from '@wellmorph/core/errors';
import { inputsOf, nameOf } from '@wellmorph/core/pipeline/results';
import { asVariant } from '@wellmorph/core/pipeline/variants';
import { type SweepAxis, sweepFields, sweepRuns } from '@wellmorph/core/plan/sweep';
import { assetState } from './db/assets';
import { addJob } from './db/jobs';
import { resultsNamed } from './db/results';
import { addSweep } from './db/sweeps';
import { publish } from './events';
import { turnQueue } from './jobs/queue';
import { RequestError } from './requests/route';

/**
 * Queues every run of a sweep over a piece as it is stored. The piece itself stays as it is.
 *
 * @throws RequestError, InputError where it was changed meanwhile, the settings can’t be swept, or what the runs are made of isn’t stored
 */
export async function beginSweep(
  assetId: string,
  baseVersion: number,
  axes: SweepAxis[],
  variant?: string,
): Promise<{ sweep: string; runs: number }> {
  const { document: piece, version } = await assetState(assetId);
  if (version !== baseVersion) throw new RequestError(409, 'asset/stale', 'The asset was changed in the meantime; look at it again first.');
  const document = asVariant(piece, variant);
  const { stage, runs } = sweepRuns(document, axes);
  const wanted = new Set(runs.flatMap((r) => inputsOf(r.document, stage).flatMap((input) => (input ? [nameOf(r.document, input)] : []))));
  if ((await resultsNamed([...wanted])).length < wanted.size)
    throw new InputError(
      'job/inputs',
      `What the runs are made of is not stored in its present state; make ${stage === 'bake' ? 'the layout' : 'one picture'} first, then try again.`,
    );
  const fields = sweepFields(document);
  const named = axes.map((a) => ({ ...a, name: fields.find((f) => f.key === a.key)?.name ?? a.key }));
  const title = named.map((a) => `${a.name.replace(/, .*/, '')} × ${a.values.length}`).join(', ');
  const sweep = await addSweep({ assetId, stage, title, axes: named });
  for (const run of runs) {
    const { column, row, label, set } = run;
    const job = await addJob({
      assetId,
      kind: stage,
      document: run.document,
      resultName: nameOf(run.document, stage),
      forecastSeconds: null,
      sweep,
      place: { column, row, label, set },
    });
    publish({ kind: 'job', job, asset: assetId, state: 'waiting', share: 0, words: '', secondsLeft: null });
  }
  void turnQueue();
  return { sweep, runs: runs.length };
}
