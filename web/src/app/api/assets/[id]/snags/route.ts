import { mustExist } from '@/server/db/assets';
import { addSnag, listSnags } from '@/server/db/snags';
import { SnagRequest } from '@/server/requests/logbook';
import { body, route } from '@/server/requests/route';

export const dynamic = 'force-dynamic';

export const GET = route<{ id: string }>(async (_request, { id }) => {
  await mustExist(id);
  return Response.json(await listSnags(id));
});

export const POST = route<{ id: string }>(async (request, { id }) =>
  Response.json(await addSnag(id, await body(request, SnagRequest)), { status: 201 }),
);
