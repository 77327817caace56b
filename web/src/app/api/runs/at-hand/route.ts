import { runsAtHand } from '@/server/db/runs';
import { route } from '@/server/requests/route';

export const dynamic = 'force-dynamic';

export const GET = route(async () => Response.json(await runsAtHand()));
