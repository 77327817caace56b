import { listSnags } from '@/server/db/snags';
import { route } from '@/server/requests/route';

export const dynamic = 'force-dynamic';

/** Snags of all pieces. */
export const GET = route(async () => Response.json(await listSnags()));
