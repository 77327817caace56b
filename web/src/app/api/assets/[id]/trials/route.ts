import { addTrial } from '@/server/db/trials';
import { body, route } from '@/server/requests/route';
import { TrialRequest } from '@/server/requests/shapes';

export const POST = route<{ id: string }>(async (request, { id }) => {
  const trial = await body(request, TrialRequest);
  return Response.json(await addTrial(id, { ...trial, thumbnail: trial.thumbnail ?? null }), { status: 201 });
});
