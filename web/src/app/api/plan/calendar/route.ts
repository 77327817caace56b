import { calendarOf } from '@/server/calendar';
import { planNow } from '@/server/plan';
import { DayQuery } from '@/server/requests/logbook';
import { query, route } from '@/server/requests/route';

export const dynamic = 'force-dynamic';

export const GET = route(async (request) => {
  const { day } = await query(request, DayQuery);
  return new Response(calendarOf(await planNow(day), new Date()), {
    headers: { 'Content-Type': 'text/calendar; charset=utf-8', 'Content-Disposition': 'attachment; filename="wellmorph-plan.ics"' },
  });
});
