import { mustExist } from '@/server/db/assets';
import { forgetState } from '@/server/db/states';
import { StateForgetRequest } from '@/server/requests/logbook';
import { body, RequestError, route } from '@/server/requests/route';

export const PATCH = route<{ id: string; state: string }>(async (request, { id, state }) => {
  const { forget } = await body(request, StateForgetRequest);
  await mustExist(id);
  if (!forget) throw new RequestError(400, 'state/nothing', 'There is nothing to change about this state.');
  await forgetState(id, state);
  return Response.json({ state });
});
