import { queueNow, turnQueue } from '@/server/jobs/queue';
import { route } from '@/server/requests/route';

export const dynamic = 'force-dynamic';

export const GET = route(async () => {
  // Also wakes the queue after a restart.
  void turnQueue();
  return Response.json(await queueNow());
});
