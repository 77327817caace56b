import { duplicateAsset } from '@/server/db/assets';
import { route } from '@/server/requests/route';

export const POST = route<{ id: string }>(async (_request, { id }) => Response.json({ id: await duplicateAsset(id) }, { status: 201 }));
