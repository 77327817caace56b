'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useQuery } from '@tanstack/react-query';
import { QUEUE, type QueueChoices } from '@wellmorph/core/plan/queue-hours';
import { useAsk } from '@/logbook/queries';
import { get, send } from '@/session/api';
import { Choice, Heading } from '@/sheet/fields';
import { useQueue } from '@/workshop/queue';

const HOURS = Array.from({ length: 24 }, (_, h) => [h, `${String(h).padStart(2, '0')}:00`] as const);
const clock = (seconds: number): string =>
  new Date(Date.now() + 1000 * seconds).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' });

/** How the queue is worked: in which order, at which hours, and whether it is held; when each of its jobs ends. */
export function QueueMargin() {
  const { data: choices = QUEUE } = useQuery({ queryKey: ['plan', 'queue'], queryFn: () => get<QueueChoices>('/api/queue') });
  const put = useAsk((change: Partial<QueueChoices>) => send('PUT', '/api/queue', change), ['plan', 'queue']);
  const jobs = useQueue().filter((j) => j.state === 'running' || j.state === 'waiting');
  const { order, hours, held } = choices;
  return (
    <Box component="section" aria-label="queue" sx={{ mt: 2 }}>
      <Heading aside={held ? 'held' : jobs.length === 0 ? 'empty' : `${jobs.length} to do`}>Queue</Heading>
      <Choice
        label="order"
        value={order}
        choices={[
          ['asked', 'as asked for'],
          ['due', 'earliest due first'],
        ]}
        onChange={(to) => put.mutate({ order: to })}
      />
      <Choice
        label="works"
        value={hours ? 'hours' : 'any'}
        choices={[
          ['any', 'at any hour'],
          ['hours', 'at given hours'],
        ]}
        onChange={(to) => put.mutate({ hours: to === 'any' ? null : { from: 20, to: 7 } })}
      />
      {hours && (
        <>
          <Choice label="from" value={hours.from} choices={HOURS} onChange={(from) => put.mutate({ hours: { ...hours, from } })} />
          <Choice label="to" value={hours.to} choices={HOURS} onChange={(to) => put.mutate({ hours: { ...hours, to } })} />
        </>
      )}
      <Button variant="outlined" aria-pressed={held} onClick={() => put.mutate({ held: !held })} sx={{ mt: 0.6 }}>
        {held ? 'Let it go on' : 'Hold it while I work'}
      </Button>
      {jobs.slice(0, 6).map((j) => (
        <Box key={j.id} className="narrow" sx={{ display: 'flex', gap: 1, fontSize: 12.5, mt: 0.4 }}>
          <Box sx={{ flex: 1, minWidth: 0, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
            {j.asset}
            {j.place && `, ${j.place.label}`}
          </Box>
          <Box className="mono" sx={{ color: 'text.secondary' }}>
            {j.endsIn === null ? (j.state === 'running' ? 'runs' : 'waits') : `ends ${clock(j.endsIn)}`}
          </Box>
        </Box>
      ))}
      {jobs.length > 6 && <Box sx={{ fontSize: 12.5, color: 'text.secondary' }}>and {jobs.length - 6} more</Box>}
    </Box>
  );
}
