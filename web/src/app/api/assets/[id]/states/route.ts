import { assetState, mustExist } from '@/server/db/assets';
import { nameState, statesOf } from '@/server/db/states';
import { StateRequest } from '@/server/requests/logbook';
import { body, RequestError, route } from '@/server/requests/route';

export const dynamic = 'force-dynamic';

export const GET = route<{ id: string }>(async (_request, { id }) => {
  await mustExist(id);
  return Response.json(await statesOf(id));
});

export const POST = route<{ id: string }>(async (request, { id }) => {
  const { name, baseVersion } = await body(request, StateRequest);
  if ((await assetState(id)).version !== baseVersion)
    throw new RequestError(409, 'asset/stale', 'The piece was changed in the meantime; look at it again before you name it.');
  return Response.json(await nameState(id, name), { status: 201 });
});
