import { keepChoice, keptChoice } from '@/server/db/kept';
import { publish } from '@/server/events';
import { FiltersRequest, RunsQuery } from '@/server/requests/logbook';
import { body, checked, RequestError, route } from '@/server/requests/route';

export const dynamic = 'force-dynamic';

/** Filters of the logbook that were saved, by their names. */
export const GET = route(async () => Response.json((await keptChoice('filters')) ?? {}));

export const PUT = route(async (request) => {
  const { filters } = await body(request, FiltersRequest);
  const names = Object.keys(filters);
  if (names.length > 100) throw new RequestError(400, 'filters/many', 'These are more filters than can be kept; 100 is the most.');
  if (names.some((n) => n.length < 1 || n.length > 60))
    throw new RequestError(400, 'filters/name', 'The name of a filter has from 1 to 60 letters.');
  for (const filter of Object.values(filters)) await checked(filter, RunsQuery);
  await keepChoice('filters', filters);
  publish({ kind: 'logbook' });
  return Response.json(filters);
});
