import { nameOf } from '@wellmorph/core/pipeline/results';
import { assetState, setThumbnail } from '@/server/db/assets';
import { database } from '@/server/db/client';
import { touch } from '@/server/db/results';
import { body, RequestError, route } from '@/server/requests/route';
import { ThumbnailRequest } from '@/server/requests/shapes';

/** The piece's picture, when it is one of the piece as it stands; an older one is left aside. */
export const PUT = route<{ id: string }>(async (request, { id }) => {
  const { thumbnail, form } = await body(request, ThumbnailRequest);
  if (!(await touch(await database(), [thumbnail])))
    throw new RequestError(400, 'request/blob', 'The file this change refers to is not stored here.');
  const taken = nameOf((await assetState(id)).document, 'form') === form;
  if (taken) await setThumbnail(id, thumbnail);
  return Response.json({ taken });
});
