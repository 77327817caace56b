import { storedSizes } from '@/server/blobs/collect';
import { route } from '@/server/requests/route';

export const dynamic = 'force-dynamic';

/** How much is stored, and how much of it will go. */
export const GET = route(async () => Response.json(await storedSizes()));
