import { mustExist } from '@/server/db/assets';
import { body, route } from '@/server/requests/route';
import { TakeRequest } from '@/server/requests/shapes';
import { useRunOn } from '@/server/use-run';

/** Everything that a trial was made by becomes the asset's again, as one change. */
export const POST = route<{ id: string; trial: string }>(async (request, { id, trial }) => {
  const { baseVersion, clientId, seq, variant } = await body(request, TakeRequest);
  await mustExist(id);
  return Response.json(await useRunOn(trial, id, baseVersion, { clientId, seq }, { variant, own: true }));
});
