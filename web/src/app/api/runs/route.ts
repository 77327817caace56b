import { listRuns } from '@/server/db/runs';
import { RunsQuery } from '@/server/requests/logbook';
import { query, route } from '@/server/requests/route';

export const dynamic = 'force-dynamic';

export const GET = route(async (request) => Response.json(await listRuns(await query(request, RunsQuery))));
