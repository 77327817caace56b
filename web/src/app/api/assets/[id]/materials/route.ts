import { materialsElsewhere } from '@/server/import/pieces';
import { route } from '@/server/requests/route';

export const dynamic = 'force-dynamic';

export const GET = route<{ id: string }>(async (_, { id }) => Response.json(await materialsElsewhere(id)));
