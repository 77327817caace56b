import { importAsset } from '@/server/import/import';
import { uploadOf } from '@/server/import/upload';
import { route } from '@/server/requests/route';

export const POST = route(async (request) => Response.json(await importAsset(await uploadOf(request)), { status: 201 }));
