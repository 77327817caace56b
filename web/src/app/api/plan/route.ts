import { planNow, setPlan } from '@/server/plan';
import { DayQuery, PlanRequest } from '@/server/requests/logbook';
import { body, query, route, something } from '@/server/requests/route';

export const dynamic = 'force-dynamic';

export const GET = route(async (request) => Response.json(await planNow((await query(request, DayQuery)).day)));

export const PUT = route(async (request) => {
  await setPlan(something(await body(request, PlanRequest)));
  return Response.json({});
});
