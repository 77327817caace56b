import { inputsOf, nameOf } from '@wellmorph/core/pipeline/results';
import { asVariant } from '@wellmorph/core/pipeline/variants';
import { assetState } from '@/server/db/assets';
import { addJob } from '@/server/db/jobs';
import { resultsNamed } from '@/server/db/results';
import { publish } from '@/server/events';
import { turnQueue } from '@/server/jobs/queue';
import { body, RequestError, route } from '@/server/requests/route';
import { JobRequest } from '@/server/requests/shapes';

/** Puts the picture or the bake of the asset as it is stored now into the queue. What it is made of is there already, by name. */
export const POST = route<{ id: string }>(async (request, { id }) => {
  const { baseVersion, kind = 'render', variant, forecastSeconds } = await body(request, JobRequest);
  const { document: piece, version } = await assetState(id);
  if (version !== baseVersion) throw new RequestError(409, 'asset/stale', 'The asset was changed in the meantime; look at it again first.');
  const document = asVariant(piece, variant);
  const wanted = inputsOf(document, kind).flatMap((input) => (input ? [nameOf(document, input)] : []));
  if ((await resultsNamed(wanted)).length < wanted.length)
    throw new RequestError(
      422,
      'job/inputs',
      `What the ${kind === 'bake' ? 'bake' : 'picture'} is made of is not stored in its present state; make it first, then try again.`,
    );
  const job = await addJob({
    assetId: id,
    kind,
    document,
    resultName: nameOf(document, kind),
    forecastSeconds: forecastSeconds ?? null,
  });
  publish({ kind: 'job', job, asset: id, state: 'waiting', share: 0, words: '', secondsLeft: null });
  void turnQueue();
  return Response.json({ job }, { status: 201 });
});
