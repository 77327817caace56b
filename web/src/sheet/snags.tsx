'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import { useQuery } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { useAsk } from '@/logbook/queries';
import type { PlaceMarks } from '@/plates/place-marks';
import type { Snag, SnagChange } from '@/server/db/snags';
import { get, send } from '@/session/api';
import { useSession, useSheet } from '@/session/context';
import { Heading, NumberField } from './fields';
import { Act, Written } from './plain';

/** Snags of the piece that is open. */
export function useSnagsHere(): Snag[] {
  const id = useSheet((s) => s.id);
  return useQuery({ queryKey: ['snags', id], queryFn: () => get<Snag[]>(`/api/assets/${id}/snags`) }).data ?? [];
}

/** Where open snags of the piece are; the chosen one, or the place that is being pinned, alone. */
export function useSnagDots(): PlaceMarks | undefined {
  const snags = useSnagsHere();
  const pinning = useSheet((s) => s.pinning);
  return useMemo(() => {
    const open = snags.flatMap((s) => (s.place && !s.doneAt ? [{ part: s.place.part, points: [s.place.at] }] : []));
    const all = pinning?.place ? [...open, { part: pinning.place.part, points: [pinning.place.at] }] : open;
    return all.length > 0 ? all : undefined;
  }, [snags, pinning]);
}

/** The place of a snag that was asked for, to fly to. */
export function useSnagMarks(chosen: string | null): PlaceMarks | undefined {
  const snags = useSnagsHere();
  return useMemo(() => {
    const place = chosen?.startsWith('snag ') ? snags.find((s) => s.id === chosen.slice(5))?.place : null;
    return place ? [{ part: place.part, points: [place.at] }] : undefined;
  }, [snags, chosen]);
}

/** What somebody noticed and left for later: noted with its minutes, pinned to a place on the piece, ticked off. */
export function SnagsPanel() {
  const session = useSession();
  const id = useSheet((s) => s.id);
  const pinning = useSheet((s) => s.pinning);
  const snags = useSnagsHere();
  const [shown, setShown] = useState(false);
  const [gone, setGone] = useState<Snag | null>(null);
  const [words, setWords] = useState('');
  const [minutes, setMinutes] = useState(10);
  const add = useAsk((snag: object) => send('POST', `/api/assets/${id}/snags`, snag), ['snags', 'plan']);
  const change = useAsk(({ snag, ...to }: { snag: string } & SnagChange) => send('PATCH', `/api/snags/${snag}`, to), ['snags', 'plan']);
  const open = snags.filter((s) => !s.doneAt);
  const done = snags.length - open.length;
  const save = () =>
    add.mutate(
      { words: words.trim(), minutes, ...(pinning?.place && { place: pinning.place }) },
      {
        onSuccess: () => {
          setWords('');
          session.set({ pinning: null });
        },
      },
    );
  return (
    <Box component="section" aria-label="snags" sx={{ mt: 2 }}>
      <Heading aside={open.length === 0 ? 'none open' : `${open.length} open, ${Math.round(open.reduce((n, s) => n + s.minutes, 0))} min`}>
        Snags
      </Heading>
      {(shown ? snags : open).map((s) => (
        <Box
          key={s.id}
          sx={{ display: 'flex', alignItems: 'flex-start', gap: 0.4, fontSize: 13, borderBottom: 1, borderColor: 'sheet.faint', py: 0.3 }}
        >
          <Checkbox
            checked={s.doneAt !== null}
            onChange={(e) => change.mutate({ snag: s.id, done: e.target.checked })}
            slotProps={{ input: { 'aria-label': `Done: ${s.words}` } }}
            sx={{ mt: '-2px' }}
          />
          <Box
            sx={{
              flex: 1,
              minWidth: 0,
              textDecoration: s.doneAt ? 'line-through' : 'none',
              color: s.doneAt ? 'text.secondary' : undefined,
            }}
          >
            {s.words}
            {s.place && !s.doneAt && (
              <Act quiet sx={{ ml: 0.8 }} aria-label={`Show where: ${s.words}`} onClick={() => session.select({ finding: `snag ${s.id}` })}>
                where
              </Act>
            )}
          </Box>
          <Box className="mono" sx={{ fontSize: 12, color: 'text.secondary', whiteSpace: 'nowrap', pt: '2px' }}>
            {s.minutes} min
          </Box>
          {s.doneAt !== null && (
            <Act
              quiet
              aria-label={`Remove: ${s.words}`}
              onClick={() => change.mutate({ snag: s.id, removed: true }, { onSuccess: () => setGone(s) })}
            >
              remove
            </Act>
          )}
        </Box>
      ))}
      {done > 0 && (
        <Act quiet onClick={() => setShown(!shown)}>
          {shown ? 'Hide what is done' : `${done} done`}
        </Act>
      )}
      {gone && (
        <Box role="status" sx={{ fontSize: 12.5 }}>
          “{gone.words}” is removed.{' '}
          <Act onClick={() => change.mutate({ snag: gone.id, removed: false }, { onSuccess: () => setGone(null) })}>Bring it back</Act>
        </Box>
      )}
      <Box sx={{ mt: 0.8 }}>
        <Written
          placeholder="something to mend later"
          value={words}
          inputProps={{ 'aria-label': 'Snag', maxLength: 300 }}
          onChange={(e) => setWords(e.target.value)}
          onKeyDown={(e) => e.key === 'Enter' && words.trim() && save()}
          sx={{ width: '100%' }}
        />
        <NumberField
          label="minutes it takes"
          kind="number"
          unit="min"
          min={0}
          max={6000}
          digits={0}
          value={minutes}
          onCommit={setMinutes}
          width={84}
        />
        <Box sx={{ display: 'flex', gap: 1, alignItems: 'center' }}>
          <Button variant="outlined" disabled={!words.trim() || add.isPending} onClick={save}>
            Note it
          </Button>
          <Button aria-pressed={pinning !== null} onClick={() => session.set({ pinning: pinning ? null : { place: null } })}>
            {pinning ? (pinning.place ? 'Pinned; not there' : 'Press the piece …') : 'Pin it to a place'}
          </Button>
        </Box>
      </Box>
    </Box>
  );
}
