import { stopJob } from '@/server/jobs/queue';
import { body, RequestError, route } from '@/server/requests/route';
import { JobPatchRequest } from '@/server/requests/shapes';

export const PATCH = route<{ job: string }>(async (request, { job }) => {
  await body(request, JobPatchRequest);
  if (!(await stopJob(job))) throw new RequestError(404, 'job/missing', 'That is not in the queue any more.');
  return Response.json({ job });
});
