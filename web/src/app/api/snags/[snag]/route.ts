import { setSnag } from '@/server/db/snags';
import { SnagPatchRequest } from '@/server/requests/logbook';
import { body, route, something } from '@/server/requests/route';

export const PATCH = route<{ snag: string }>(async (request, { snag }) => {
  await setSnag(snag, something(await body(request, SnagPatchRequest)));
  return Response.json({ snag });
});
