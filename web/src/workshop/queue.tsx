'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import { useMutation, useQuery } from '@tanstack/react-query';
import { worstOf } from '@wellmorph/core/pipeline/status';
import Link from 'next/link';
import type { QueuedJob } from '@/server/jobs/queue';
import type { Card } from '@/server/workshop';
import { get, send } from '@/session/api';
import { useBenchState } from '@/session/context';
import { inTime } from '@/shared/times';
import { Heading } from '@/sheet/fields';
import { StatusMark } from '@/sheet/marks';

/** What the server has to do; news of it come by themselves. */
export function useQueue(): QueuedJob[] {
  return useQuery({ queryKey: ['queue'], queryFn: () => get<QueuedJob[]>('/api/jobs') }).data ?? [];
}

const STATES: Record<QueuedJob['state'], string> = {
  waiting: 'waits',
  running: 'is drawn',
  done: 'done',
  stopped: 'stopped',
  failed: 'failed',
};

/** What is queued and what is due, side by side; neither takes room while there is nothing to say. */
export function QueueAndDue({ cards }: { cards: readonly Card[] }) {
  const jobs = useQueue();
  const here = useBenchState((s) => s.jobs);
  const stop = useMutation({ mutationFn: (job: string) => send('PATCH', `/api/jobs/${job}`, { stop: true }) });
  const due = cards.filter((c) => c.deadline).sort((a, b) => ((a.deadline as string) < (b.deadline as string) ? -1 : 1));
  if (jobs.length + here.length === 0 && due.length === 0) return null;
  const open = jobs.filter((j) => j.state === 'running' || j.state === 'waiting');
  const left = open.reduce((s, j) => s + (j.secondsLeft ?? 0), 0);
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: 'minmax(0, 1fr) minmax(0, 1fr)', gap: 4, px: 2.5, pt: 2.2 }}>
      <Box component="section" aria-label="due">
        <Heading>Due</Heading>
        {due.length === 0 && <Box sx={{ color: 'text.secondary', fontSize: 13 }}>No asset has a deadline.</Box>}
        {due.map((c) => {
          const days = Math.ceil((new Date(c.deadline as string).getTime() - Date.now()) / 86_400_000);
          const ready = c.stages['hand-off'] === 'ok';
          return (
            <Box
              key={c.id}
              sx={{ display: 'grid', gridTemplateColumns: '20px 1fr auto auto', gap: 1, alignItems: 'center', py: 0.4, fontSize: 13 }}
            >
              <StatusMark status={worstOf(Object.values(c.stages))} />
              <Box component={Link} href={`/assets/${c.id}/hand-off`} sx={{ color: 'inherit' }}>
                {c.name}
              </Box>
              <Box className="narrow" sx={{ color: 'text.secondary' }}>
                {c.deadline}
              </Box>
              <Box
                className="mono"
                sx={{ color: days < 0 && !ready ? 'error.main' : days <= 2 && !ready ? 'warning.main' : 'text.primary' }}
              >
                {days < 0 ? `${-days} days late` : days === 0 ? 'today' : `${days} day${days === 1 ? '' : 's'}`}
              </Box>
            </Box>
          );
        })}
      </Box>
      <Box component="section" aria-label="queue">
        <Heading aside={open.length > 0 && left > 0 ? `about ${inTime(left)} in all` : undefined}>Queue</Heading>
        {here.map((j) => (
          <Box key={j.id} sx={{ py: 0.4 }}>
            <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, fontSize: 13 }}>
              <Box
                component={Link}
                href={`/assets/${j.asset}/${j.what === 'handoff' ? 'hand-off' : 'form'}`}
                sx={{ color: 'inherit', flex: 1 }}
              >
                {j.assetName}
              </Box>
              <Box className="narrow" sx={{ color: 'text.secondary' }}>
                on this page: {j.words || 'under way'}
              </Box>
              <Button sx={{ minHeight: 24, py: 0 }} aria-label={`Stop ${j.assetName}`} onClick={j.cancel}>
                Stop
              </Button>
            </Box>
            <LinearProgress variant="determinate" value={100 * j.share} sx={{ height: 4, bgcolor: 'sheet.faint' }} />
          </Box>
        ))}
        {jobs.length + here.length === 0 && (
          <Box sx={{ color: 'text.secondary', fontSize: 13 }}>Nothing is queued. Long pictures are put here from Render.</Box>
        )}
        {jobs.map((j) => (
          <Box key={j.id} sx={{ py: 0.4 }} data-job={j.state}>
            <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, fontSize: 13 }}>
              <Box component={Link} href={`/assets/${j.assetId}/render`} sx={{ color: 'inherit', flex: 1 }}>
                Picture of {j.asset}
              </Box>
              <Box
                className="narrow"
                sx={{ color: j.state === 'failed' ? 'error.main' : 'text.secondary' }}
                title={j.sentence ?? undefined}
              >
                {STATES[j.state]}
                {j.state === 'running' && j.secondsLeft ? `, about ${inTime(j.secondsLeft)} left` : ''}
                {j.state === 'failed' && j.sentence ? `: ${j.sentence}` : ''}
              </Box>
              {(j.state === 'running' || j.state === 'waiting') && (
                <Button sx={{ minHeight: 24, py: 0 }} aria-label={`Stop the picture of ${j.asset}`} onClick={() => stop.mutate(j.id)}>
                  Stop
                </Button>
              )}
            </Box>
            {j.state === 'running' && (
              <LinearProgress variant="determinate" value={100 * j.share} sx={{ height: 4, bgcolor: 'sheet.faint' }} />
            )}
          </Box>
        ))}
      </Box>
    </Box>
  );
}
