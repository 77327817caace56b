import { sweepSheet } from '@/server/db/sweeps';
import { route } from '@/server/requests/route';

export const dynamic = 'force-dynamic';

export const GET = route<{ sweep: string }>(async (_request, { sweep }) => Response.json(await sweepSheet(sweep)));
