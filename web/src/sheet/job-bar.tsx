'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import { useEffect, useState } from 'react';
import { useSheet } from '@/sheet/state';

const NAMES = {
  solve: 'Solving the budget',
  unwrap: 'Unwrapping',
  bake: 'Baking',
  export: 'Exporting',
  fix: 'Mending',
  import: 'Importing',
  surface: 'Composing',
  render: 'Rendering',
  handoff: 'Packing',
  report: 'Writing the report',
  levels: 'Making levels',
  simplify: 'Simplifying',
};

/** What is being computed, how far it is, how long it will still take, and a way to stop it. */
export function JobBar() {
  const job = useSheet((s) => s.job);
  const [, tick] = useState(0);
  useEffect(() => {
    if (!job) return;
    const timer = setInterval(() => tick((n) => n + 1), 500);
    return () => clearInterval(timer);
  }, [job]);
  if (!job) return null;
  const seconds = (Date.now() - job.startedAt) / 1000;
  const left = job.share > 0.05 ? (seconds / job.share) * (1 - job.share) : null;
  return (
    <Box
      role="status"
      aria-label={NAMES[job.what]}
      sx={{
        position: 'absolute',
        left: 16,
        right: 16,
        bottom: 14,
        p: 1.2,
        bgcolor: 'background.paper',
        border: 1,
        borderColor: 'divider',
        borderRadius: 1,
        zIndex: 5,
      }}
    >
      <Box sx={{ display: 'flex', justifyContent: 'space-between', alignItems: 'center', gap: 2, mb: 0.6 }}>
        <Box>
          <b>{NAMES[job.what]}</b>{' '}
          <Box component="span" sx={{ color: 'text.secondary' }}>
            {job.words}
          </Box>
        </Box>
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5 }}>
          <Box className="narrow" sx={{ color: 'text.secondary', whiteSpace: 'nowrap' }}>
            {left === null
              ? 'measuring how long …'
              : `about ${left < 60 ? `${Math.max(1, Math.round(left))} s` : `${Math.floor(left / 60)}:${String(Math.round(left % 60)).padStart(2, '0')}`} left`}
          </Box>
          {job.cancel && (
            <Button variant="outlined" onClick={job.cancel}>
              Stop
            </Button>
          )}
        </Box>
      </Box>
      <LinearProgress variant="determinate" value={100 * job.share} sx={{ height: 5, bgcolor: 'sheet.faint' }} />
    </Box>
  );
}
