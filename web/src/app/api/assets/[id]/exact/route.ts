import { cutAnew } from '@/server/import/anew';
import { body, route } from '@/server/requests/route';
import { CutRequest } from '@/server/requests/shapes';

export const POST = route<{ id: string }>(async (request, { id }) => {
  const { fileName, toleranceMm } = await body(request, CutRequest);
  return Response.json(await cutAnew(id, fileName, toleranceMm));
});
