import { judgeTrial } from '@/server/db/trials';
import { body, route } from '@/server/requests/route';
import { TrialPatchRequest } from '@/server/requests/shapes';

export const PATCH = route<{ id: string; trial: string }>(async (request, { id, trial }) => {
  const { verdict, note } = await body(request, TrialPatchRequest);
  return Response.json(await judgeTrial(id, trial, { ...(verdict !== undefined && { verdict }), ...(note !== undefined && { note }) }));
});
