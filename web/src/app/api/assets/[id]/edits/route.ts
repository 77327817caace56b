import { editAsset } from '@/server/db/assets';
import { checkedCommand } from '@/server/requests/command';
import { body, route } from '@/server/requests/route';
import { EditRequest } from '@/server/requests/shapes';

export const POST = route<{ id: string }>(async (request, { id }) => {
  const { baseVersion, clientId, seq, command, advice } = await body(request, EditRequest);
  return Response.json(await editAsset(id, baseVersion, await checkedCommand(command), { clientId, seq }, advice));
});
