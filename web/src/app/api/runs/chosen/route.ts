import { runsById } from '@/server/db/runs';
import { IdsQuery } from '@/server/requests/logbook';
import { query, route } from '@/server/requests/route';

export const dynamic = 'force-dynamic';

/** Some runs by their ids, `,` between them. */
export const GET = route(async (request) => {
  const { ids } = await query(request, IdsQuery);
  return Response.json(await runsById(ids.split(',').filter(Boolean).slice(0, 6)));
});
