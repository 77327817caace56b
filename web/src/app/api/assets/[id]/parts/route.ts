import { bringParts } from '@/server/import/import';
import { withUpload } from '@/server/import/upload';
import { route } from '@/server/requests/route';

export const POST = route<{ id: string }>(async (request, { id }) =>
  Response.json(await withUpload(request, (upload) => bringParts(id, upload))),
);
