import { importHigh } from '@/server/import/import';
import { uploadOf } from '@/server/import/upload';
import { route } from '@/server/requests/route';

export const POST = route<{ id: string }>(async (request, { id }) => Response.json(await importHigh(id, await uploadOf(request))));
