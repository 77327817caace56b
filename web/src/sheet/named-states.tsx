'use client';

import Box from '@mui/material/Box';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useAsk } from '@/logbook/queries';
import type { NamedState } from '@/server/db/states';
import { get, send } from '@/session/api';
import { useSession, useSheet } from '@/session/context';
import { Act, Written } from './plain';

/** States of the piece that were given a name, and a name for the one it is in. */
export function NamedStates() {
  const session = useSession();
  const id = useSheet((s) => s.id);
  const [name, setName] = useState('');
  const { data: states = [] } = useQuery({ queryKey: ['states', id], queryFn: () => get<NamedState[]>(`/api/assets/${id}/states`) });
  const add = useAsk(
    async (called: string) => {
      // What is named is what one sees: changes that are on their way come first.
      await session.lane.flushed();
      return send('POST', `/api/assets/${id}/states`, { name: called, baseVersion: session.version });
    },
    ['states'],
  );
  const forget = useAsk(
    ({ state, forget: away }: { state: string; forget: boolean }) => send('PATCH', `/api/assets/${id}/states/${state}`, { forget: away }),
    ['states'],
  );
  const [gone, setGone] = useState<NamedState | null>(null);
  const save = () => name.trim() && add.mutate(name.trim(), { onSuccess: () => setName('') });
  return (
    <Box component="section" aria-label="named states" sx={{ mb: 1.4 }}>
      <Box component="h3" sx={{ m: 0, mb: 0.6, fontSize: 13.5 }}>
        Named states
      </Box>
      {states.map((s) => (
        <Box key={s.id} sx={{ display: 'flex', gap: 1, py: 0.3, borderTop: 1, borderColor: 'sheet.faint' }}>
          <Box sx={{ flex: 1, minWidth: 0, overflow: 'hidden', textOverflow: 'ellipsis' }} title={new Date(s.at).toLocaleString('en-GB')}>
            {s.name}
          </Box>
          <Act aria-label={`Go back to ${s.name}`} onClick={() => void session.takeState(s)}>
            go back to it
          </Act>
          <Act
            quiet
            aria-label={`Forget ${s.name}`}
            onClick={() => forget.mutate({ state: s.id, forget: true }, { onSuccess: () => setGone(s) })}
          >
            forget
          </Act>
        </Box>
      ))}
      {gone && (
        <Box role="status" sx={{ fontSize: 12.5 }}>
          “{gone.name}” is forgotten.{' '}
          <Act onClick={() => forget.mutate({ state: gone.id, forget: false }, { onSuccess: () => setGone(null) })}>Bring it back</Act>
        </Box>
      )}
      <Box sx={{ display: 'flex', gap: 1, alignItems: 'baseline' }}>
        <Written
          line
          placeholder="call it as it is now …"
          value={name}
          inputProps={{ 'aria-label': 'Name of this state', maxLength: 80 }}
          onChange={(e) => setName(e.target.value)}
          onKeyDown={(e) => e.key === 'Enter' && save()}
          sx={{ flex: 1 }}
        />
        <Act disabled={!name.trim() || add.isPending} onClick={save}>
          Name it
        </Act>
      </Box>
    </Box>
  );
}
