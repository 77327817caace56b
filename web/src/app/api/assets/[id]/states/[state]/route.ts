import { mustExist } from '@/server/db/assets';
import { forgetState } from '@/server/db/states';
import { StateForgetRequest } from '@/server/requests/logbook';
import { body, route } from '@/server/requests/route';

export const PATCH = route<{ id: string; state: string }>(async (request, { id, state }) => {
  const { forget } = await body(request, StateForgetRequest);
  await mustExist(id);
  await forgetState(id, state, forget);
  return Response.json({ state });
});
