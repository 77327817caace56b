import { SuggestionsQuery } from '@/server/requests/logbook';
import { query, route } from '@/server/requests/route';
import { suggested } from '@/server/suggested';

export const dynamic = 'force-dynamic';

export const GET = route(async (request) => {
  const { asset, stage } = await query(request, SuggestionsQuery);
  return Response.json(await suggested(asset, stage));
});
