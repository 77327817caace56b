import { VERSIONS } from '@wellmorph/core/pipeline/results';
import { hasBlob } from '@/server/blobs/store';
import { setThumbnail } from '@/server/db/assets';
import { keepResult } from '@/server/db/results';
import { body, RequestError, route } from '@/server/requests/route';
import { ResultRequest } from '@/server/requests/shapes';

export const PUT = route<{ id: string; stage: string }>(async (request, { id, stage }) => {
  // The longer look at the form is kept beside it.
  if (!Object.hasOwn(VERSIONS, stage) && stage !== 'look') throw new RequestError(404, 'result/stage', 'There is no such stage.');
  const { hash, figures, blobs, thumbnail } = await body(request, ResultRequest);
  for (const blob of [...Object.values(blobs), ...(thumbnail ? [thumbnail] : [])])
    if (typeof blob !== 'string' || !(await hasBlob(blob)))
      throw new RequestError(400, 'result/blob', 'A file this result refers to is not stored here.');
  await keepResult(id, { stage, hash, figures, blobs });
  if (thumbnail) await setThumbnail(id, thumbnail);
  return Response.json({ stage, hash });
});
