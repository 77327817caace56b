import { resultsNamed } from '@/server/db/results';
import { RequestError, route } from '@/server/requests/route';

export const dynamic = 'force-dynamic';
/** Names asked for at once. */
const MOST = 64;

/** Those of the named results that are kept; what isn't is left out. */
export const GET = route(async (request) => {
  const names = (new URL(request.url).searchParams.get('names') ?? '').split(',').filter(Boolean);
  if (names.length > MOST || names.some((n) => !/^[0-9a-f]{64}$/.test(n)))
    throw new RequestError(400, 'result/names', `Up to ${MOST} names of results can be asked for at once.`);
  return Response.json(await resultsNamed(names));
});
