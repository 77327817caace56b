'use client';

import Box from '@mui/material/Box';
import LinearProgress from '@mui/material/LinearProgress';
import { useMutation, useQuery } from '@tanstack/react-query';
import { worstOf } from '@wellmorph/core/pipeline/status';
import { type ReactNode, useState } from 'react';
import type { QueuedJob } from '@/server/jobs/queue';
import type { Card } from '@/server/workshop';
import { get, send } from '@/session/api';
import { useBenchState } from '@/session/context';
import type { JobView } from '@/session/state';
import { daysInWords, inTime } from '@/shared/times';
import { StatusMark } from '@/sheet/marks';
import { PageLink } from '@/sheet/page-link';
import { Act } from '@/sheet/plain';

/** What the server has to do; news of it come by themselves. */
export function useQueue(): QueuedJob[] {
  return useQuery({ queryKey: ['queue'], queryFn: () => get<QueuedJob[]>('/api/jobs') }).data ?? [];
}

const STATES: Record<QueuedJob['state'], string> = {
  waiting: 'waits',
  running: 'under way',
  paused: 'put off',
  done: 'done',
  stopped: 'stopped',
  failed: 'failed',
};

/** Entries a strip shows before it is opened. */
const AT_FIRST = { due: 4, queue: 3 };
/** Those that somebody waits for come first. */
const ORDER: readonly QueuedJob['state'][] = ['running', 'waiting', 'paused', 'failed', 'stopped', 'done'];

/** One line of short entries; more of them once it is opened. */
function Strip<T>({
  label,
  list,
  atFirst,
  aside,
  children,
}: {
  label: string;
  list: readonly T[];
  atFirst: number;
  aside?: string;
  children(entry: T): ReactNode;
}) {
  const [open, setOpen] = useState(false);
  const more = list.length - atFirst;
  return (
    <Box
      component="section"
      aria-label={label.toLowerCase()}
      sx={{ display: 'flex', alignItems: 'flex-start', gap: 2, px: 2.5, py: 0.6, borderBottom: 1, borderColor: 'divider', minHeight: 36 }}
    >
      <Box sx={{ width: 52, flex: 'none', fontWeight: 660, fontSize: 13, lineHeight: '24px' }}>{label}</Box>
      <Box
        sx={{
          flex: 1,
          minWidth: 0,
          display: 'grid',
          gridTemplateColumns: `repeat(${atFirst}, minmax(0, 1fr))`,
          columnGap: 3,
          rowGap: 0.4,
        }}
      >
        {(open ? list : list.slice(0, atFirst)).map(children)}
      </Box>
      {aside && (
        <Box className="narrow" sx={{ flex: 'none', fontSize: 12.5, color: 'text.secondary', lineHeight: '24px' }}>
          {aside}
        </Box>
      )}
      {more > 0 && (
        <Act aria-expanded={open} onClick={() => setOpen(!open)} sx={{ flex: 'none', lineHeight: '24px' }}>
          {open ? 'fewer' : `${more} more`}
        </Act>
      )}
    </Box>
  );
}

/** What is due and what is queued: a narrow strip each, and neither while there is nothing to say. */
export function QueueAndDue({ cards }: { cards: readonly Card[] }) {
  const jobs = useQueue();
  const here = useBenchState((s) => s.jobs);
  const due = cards.filter((c) => c.deadline).sort((a, b) => ((a.deadline as string) < (b.deadline as string) ? -1 : 1));
  const open = jobs.filter((j) => j.state === 'running' || j.state === 'waiting');
  const left = open.reduce((s, j) => s + (j.secondsLeft ?? 0), 0);
  const sorted = [...jobs].sort((a, b) => ORDER.indexOf(a.state) - ORDER.indexOf(b.state));
  const entries = [...here.map((at) => ({ at })), ...sorted.map((job) => ({ job }))];
  return (
    <>
      {due.length > 0 && (
        <Strip label="Due" list={due} atFirst={AT_FIRST.due}>
          {(c) => <Due key={c.id} card={c} />}
        </Strip>
      )}
      {entries.length > 0 && (
        <Strip
          label="Queue"
          list={entries}
          atFirst={AT_FIRST.queue}
          aside={open.length > 1 && left > 0 ? `about ${inTime(left)} in all` : undefined}
        >
          {(e) => ('at' in e ? <Here key={e.at.id} job={e.at} /> : <Queued key={e.job.id} job={e.job} />)}
        </Strip>
      )}
    </>
  );
}

const LINE = { display: 'flex', alignItems: 'center', gap: 0.8, minWidth: 0, minHeight: 24, fontSize: 13 } as const;
const CUT = { minWidth: 0, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' } as const;

function Due({ card: c }: { card: Card }) {
  const days = Math.ceil((new Date(c.deadline as string).getTime() - Date.now()) / 86_400_000);
  const ready = c.stages['hand-off'] === 'ok';
  return (
    <Box sx={LINE} title={`due ${c.deadline}`}>
      <StatusMark status={worstOf(Object.values(c.stages))} />
      <Box component={PageLink} href={`/assets/${c.id}/hand-off`} sx={{ color: 'inherit', ...CUT }}>
        {c.name}
      </Box>
      <Box
        className="mono"
        // Its colour of warning is too pale for words on this ground: the sign before it says it, and they are stronger.
        sx={{
          flex: 'none',
          color: days < 0 && !ready ? 'error.main' : days <= 2 && !ready ? 'text.primary' : 'text.secondary',
          ...(days <= 2 && !ready && { fontWeight: 700 }),
        }}
      >
        {days < 0 ? `${daysInWords(-days)} late` : days === 0 ? 'today' : daysInWords(days)}
      </Box>
    </Box>
  );
}

function Going({ share }: { share: number }) {
  return <LinearProgress variant="determinate" aria-hidden value={100 * share} sx={{ height: 3, bgcolor: 'sheet.faint' }} />;
}

/** Work of this page. */
function Here({ job: j }: { job: JobView }) {
  return (
    <Box sx={{ minWidth: 0 }}>
      <Box sx={LINE}>
        <Box
          component={PageLink}
          href={`/assets/${j.asset}/${j.what === 'handoff' ? 'hand-off' : 'form'}`}
          sx={{ color: 'inherit', ...CUT }}
        >
          {j.assetName}
        </Box>
        <Box className="narrow" sx={{ flex: 1, color: 'text.secondary', ...CUT }}>
          on this page: {j.words || 'under way'}
        </Box>
        <Act aria-label={`Stop ${j.assetName}`} onClick={j.cancel}>
          Stop
        </Act>
      </Box>
      <Going share={j.share} />
    </Box>
  );
}

const KINDS: Record<QueuedJob['kind'], { what: string; station: string }> = {
  render: { what: 'Picture', station: 'render' },
  bake: { what: 'Bake', station: 'bake' },
};

/** What turns a job of the server’s. */
export const useTurn = () =>
  useMutation({
    mutationFn: ({ job, turn }: { job: string; turn: 'stop' | 'pause' | 'resume' | 'retry' }) =>
      send('PATCH', `/api/jobs/${job}`, { turn }),
  });

/** A picture or a bake that the server makes, or made. */
function Queued({ job: j }: { job: QueuedJob }) {
  const turn = useTurn();
  const { what, station } = KINDS[j.kind];
  const open = j.state === 'running' || j.state === 'waiting' || j.state === 'paused';
  const words = `${STATES[j.state]}${j.state === 'running' && j.secondsLeft ? `, about ${inTime(j.secondsLeft)} left` : ''}${
    j.state === 'failed' && j.sentence ? `: ${j.sentence}` : ''
  }`;
  return (
    <Box sx={{ minWidth: 0 }} data-job={j.state}>
      <Box sx={LINE}>
        <Box component={PageLink} href={`/assets/${j.assetId}/${station}`} sx={{ color: 'inherit', flex: 'none', maxWidth: '60%', ...CUT }}>
          {what} of {j.asset}
          {j.place && `, ${j.place.label}`}
        </Box>
        <Box
          className="narrow"
          sx={{ flex: 1, color: j.state === 'failed' ? 'error.main' : 'text.secondary', ...CUT }}
          title={j.sentence ?? undefined}
        >
          {words}
        </Box>
        {open && (
          <Act
            aria-label={`${j.state === 'paused' ? 'Go on with' : 'Put off'} the ${what.toLowerCase()} of ${j.asset}`}
            onClick={() => turn.mutate({ job: j.id, turn: j.state === 'paused' ? 'resume' : 'pause' })}
          >
            {j.state === 'paused' ? 'Go on' : 'Put off'}
          </Act>
        )}
        {j.state === 'failed' && (
          <Act aria-label={`Try the ${what.toLowerCase()} of ${j.asset} again`} onClick={() => turn.mutate({ job: j.id, turn: 'retry' })}>
            Try again
          </Act>
        )}
        {open && (
          <Act aria-label={`Stop the ${what.toLowerCase()} of ${j.asset}`} onClick={() => turn.mutate({ job: j.id, turn: 'stop' })}>
            Stop
          </Act>
        )}
      </Box>
      {j.state === 'running' && <Going share={j.share} />}
    </Box>
  );
}
