import { pauseJob, resumeJob, stopJob, tryAgain } from '@/server/jobs/queue';
import { body, RequestError, route } from '@/server/requests/route';
import { JobPatchRequest } from '@/server/requests/shapes';

const TURN = { stop: stopJob, pause: pauseJob, resume: resumeJob, retry: tryAgain };

export const PATCH = route<{ job: string }>(async (request, { job }) => {
  const { turn } = await body(request, JobPatchRequest);
  if (!(await TURN[turn](job))) throw new RequestError(404, 'job/missing', 'That is not in the queue any more.');
  return Response.json({ job });
});
