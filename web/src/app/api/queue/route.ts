import { queueChoices, setQueueChoices } from '@/server/jobs/queue';
import { QueueRequest } from '@/server/requests/logbook';
import { body, route, something } from '@/server/requests/route';

export const dynamic = 'force-dynamic';

export const GET = route(async () => Response.json(await queueChoices()));

export const PUT = route(async (request) => Response.json(await setQueueChoices({ ...something(await body(request, QueueRequest)) })));
