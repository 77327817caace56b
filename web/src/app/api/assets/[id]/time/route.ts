import { addSpent, setSpent, spentOn } from '@/server/db/spent';
import { SpentRequest, SpentSetRequest } from '@/server/requests/logbook';
import { body, route } from '@/server/requests/route';

export const dynamic = 'force-dynamic';

export const GET = route<{ id: string }>(async (_request, { id }) => Response.json(await spentOn(id)));

/** Seconds that a page counted while somebody worked on a stage. */
export const POST = route<{ id: string }>(async (request, { id }) => {
  const { stage, day, seconds } = await body(request, SpentRequest);
  await addSpent(id, stage, day, seconds);
  return Response.json({});
});

export const PUT = route<{ id: string }>(async (request, { id }) => {
  const { stage, day, minutes } = await body(request, SpentSetRequest);
  await setSpent(id, stage, day, minutes);
  return Response.json({});
});
