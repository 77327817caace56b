'use client';

import Box from '@mui/material/Box';
import LinearProgress from '@mui/material/LinearProgress';
import { figure } from '@wellmorph/core/units/lengths';
import type { QueuedJob } from '@/server/jobs/queue';
import { inTime } from '@/shared/times';
import { Act } from '@/sheet/plain';
import { useTurn } from '@/workshop/queue';

/** This piece’s bake in the server’s queue: how far it is, and what can be done about it. */
export function InQueue({ job }: { job: QueuedJob }) {
  const turn = useTurn();
  const paused = job.state === 'paused';
  return (
    <Box role="status" aria-label="in the queue" sx={{ px: 1.8, pb: 1.2, fontSize: 12.5, color: 'text.secondary' }}>
      {job.state === 'running'
        ? `Baked on the server: ${figure(100 * job.share, 0)} %${job.secondsLeft ? `, about ${inTime(job.secondsLeft)} left` : ''}.`
        : paused
          ? 'Its bake is put off; what was done is kept.'
          : 'Its bake waits in the queue.'}
      {job.state === 'running' && (
        <LinearProgress variant="determinate" aria-hidden value={100 * job.share} sx={{ height: 3, my: 0.6, bgcolor: 'sheet.faint' }} />
      )}
      <Box sx={{ display: 'flex', gap: 1.4 }}>
        <Act onClick={() => turn.mutate({ job: job.id, turn: paused ? 'resume' : 'pause' })}>{paused ? 'Go on' : 'Put off'}</Act>
        <Act onClick={() => turn.mutate({ job: job.id, turn: 'stop' })}>Stop it</Act>
      </Box>
    </Box>
  );
}
