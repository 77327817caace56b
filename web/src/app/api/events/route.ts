import { newsStream } from '@/server/events';
import { route } from '@/server/requests/route';

export const dynamic = 'force-dynamic';

/** What happens here, as it happens. */
export const GET = route(
  async (request) =>
    new Response(newsStream(request.signal), {
      headers: { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store', 'X-Accel-Buffering': 'no' },
    }),
);
