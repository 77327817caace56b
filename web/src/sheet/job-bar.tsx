'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import Paper from '@mui/material/Paper';
import { useEffect, useState } from 'react';
import { useBenchState, useSheet } from '@/session/context';
import type { JobView } from '@/session/state';
import { countdown } from '@/shared/times';

const NAMES = {
  solve: 'Solving the budget',
  unwrap: 'Unwrapping',
  bake: 'Baking',
  export: 'Exporting',
  fix: 'Mending',
  import: 'Importing',
  surface: 'Composing',
  gather: 'Gathering',
  project: 'Laying photographs on',
  render: 'Rendering',
  variants: 'Making the variants',
  handoff: 'Packing',
  report: 'Writing the report',
  levels: 'Making levels',
  simplify: 'Simplifying',
};

/** Seconds a job will still take, once that can be told. */
const secondsLeft = ({ startedAt, share }: JobView): number | null =>
  share > 0.05 ? ((Date.now() - startedAt) / 1000 / share) * (1 - share) : null;

/** What is being computed, how far it is, how long it will still take, and a way to stop it: for this piece, and for others. */
export function JobBar() {
  const id = useSheet((s) => s.id);
  const jobs = useBenchState((s) => s.jobs);
  const [, tick] = useState(0);
  const any = jobs.length > 0;
  useEffect(() => {
    if (!any) return;
    const timer = setInterval(() => tick((n) => n + 1), 1000);
    return () => clearInterval(timer);
  }, [any]);
  if (!any) return null;
  return (
    <Box sx={{ position: 'absolute', left: 16, right: 16, bottom: 14, display: 'flex', flexDirection: 'column', gap: 0.8, zIndex: 5 }}>
      {jobs.map((job) => (
        <JobRow key={job.id} job={job} own={job.asset === id} />
      ))}
    </Box>
  );
}

function JobRow({ job, own }: { job: JobView; own: boolean }) {
  const left = secondsLeft(job);
  const name = own ? NAMES[job.what] : `${NAMES[job.what]} ${job.assetName}`;
  return (
    <Paper role="status" aria-label={name} variant="outlined" sx={{ p: own ? 1.2 : 0.7 }}>
      <Box sx={{ display: 'flex', justifyContent: 'space-between', alignItems: 'center', gap: 2, mb: 0.6 }}>
        <Box>
          <b>{name}</b>{' '}
          <Box component="span" sx={{ color: 'text.secondary' }}>
            {job.words}
          </Box>
        </Box>
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5 }}>
          <Box className="narrow" sx={{ color: 'text.secondary', whiteSpace: 'nowrap' }}>
            {left === null ? 'measuring how long …' : `about ${countdown(left)} left`}
          </Box>
          <Button variant="outlined" aria-label={own ? 'Stop' : `Stop ${name.toLowerCase()}`} onClick={job.cancel}>
            Stop
          </Button>
        </Box>
      </Box>
      <LinearProgress
        variant="determinate"
        aria-label={name}
        value={100 * job.share}
        sx={{ height: own ? 5 : 3, bgcolor: 'sheet.faint' }}
      />
    </Paper>
  );
}
