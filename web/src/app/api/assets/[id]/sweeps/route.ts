import { mustExist } from '@/server/db/assets';
import { sweepsOf } from '@/server/db/sweeps';
import { SweepRequest } from '@/server/requests/logbook';
import { body, route } from '@/server/requests/route';
import { beginSweep } from '@/server/sweep';

export const dynamic = 'force-dynamic';

export const GET = route<{ id: string }>(async (_request, { id }) => {
  await mustExist(id);
  return Response.json(await sweepsOf(id));
});

/** Queues every run of a sweep over the piece as it is stored now. */
export const POST = route<{ id: string }>(async (request, { id }) => {
  const { baseVersion, axes, variant } = await body(request, SweepRequest);
  return Response.json(await beginSweep(id, baseVersion, axes, variant), { status: 201 });
});
