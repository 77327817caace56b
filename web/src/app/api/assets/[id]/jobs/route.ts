import { resultHash } from '@wellmorph/core/pipeline/results';
import { assetState } from '@/server/db/assets';
import { addJob } from '@/server/db/jobs';
import { resultUnder } from '@/server/db/results';
import { turnQueue } from '@/server/jobs/queue';
import { body, RequestError, route } from '@/server/requests/route';
import { JobRequest } from '@/server/requests/shapes';

/** Puts the picture of the asset as it is stored now into the queue. */
export const POST = route<{ id: string }>(async (request, { id }) => {
  const { baseVersion, forecastSeconds } = await body(request, JobRequest);
  const { document, version } = await assetState(id);
  if (version !== baseVersion) throw new RequestError(409, 'asset/stale', 'The asset was changed in the meantime; look at it again first.');
  if (!(await resultUnder(id, resultHash(document, 'form'))))
    throw new RequestError(422, 'job/form', 'The piece has not been formed in its present state yet; wait a moment and try again.');
  const job = await addJob({
    assetId: id,
    kind: 'render',
    document,
    hash: resultHash(document, 'render'),
    forecastSeconds: forecastSeconds ?? null,
  });
  void turnQueue();
  return Response.json({ job }, { status: 201 });
});
