import { pairByHand } from '@/server/import/import';
import { body, route } from '@/server/requests/route';
import { PairRequest } from '@/server/requests/shapes';

export const POST = route<{ id: string }>(async (request, { id }) => {
  const { baseVersion, clientId, seq, part, high, also = [] } = await body(request, PairRequest);
  return Response.json(await pairByHand(id, baseVersion, part, high === null ? [] : [high, ...also], { clientId, seq }));
});
