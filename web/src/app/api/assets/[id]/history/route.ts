import { stepHistory } from '@/server/db/assets';
import { body, route } from '@/server/requests/route';
import { HistoryRequest } from '@/server/requests/shapes';

export const POST = route<{ id: string }>(async (request, { id }) => {
  const { baseVersion, clientId, seq, direction } = await body(request, HistoryRequest);
  return Response.json(await stepHistory(id, baseVersion, direction, { clientId, seq }));
});
