'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import type { Fit } from '@wellmorph/core/form/fit';
import type { Part } from '@wellmorph/core/pipeline/document';
import { useEffect } from 'react';
import { useSession, useSheet } from '@/session/context';
import { Choice, NumberField } from '@/sheet/fields';
import { startFitting, stopFitting } from './set-down';

const FITS: [Fit, string][] = [
  ['face to face', 'face to face'],
  ['centred', 'centred over'],
  ['flush', 'flush'],
  ['concentric', 'concentric'],
];

const LABEL: Record<Fit, string> = { 'face to face': 'Apart by', centred: 'Higher by', flush: 'Further by', concentric: 'Along it by' };

/** Sets a part against another by two faces that are picked: its own, then the other's. */
export function FitPanel({ part }: { part: Part }) {
  const session = useSession();
  const fitting = useSheet((s) => (s.fitting?.part === part.id ? s.fitting : null));
  useEffect(() => () => stopFitting(session), [session, part.id]);
  if (!fitting)
    return (
      <Button variant="outlined" sx={{ mt: 0.8 }} onClick={() => startFitting(session, { part: part.id, how: 'face to face', offset: 0 })}>
        Fit by two faces
      </Button>
    );
  return (
    <Box sx={{ mt: 0.8, pl: 1, borderLeft: 2, borderColor: 'primary.main' }} data-fitting={fitting.own ? 'second' : 'first'}>
      <Choice label="Fit" value={fitting.how} choices={FITS} onChange={(how) => session.set({ fitting: { ...fitting, how } })} />
      <NumberField
        label={LABEL[fitting.how]}
        value={fitting.offset}
        min={-1e4}
        max={1e4}
        onCommit={(offset) => session.set({ fitting: { ...fitting, offset } })}
      />
      <Box sx={{ display: 'flex', alignItems: 'center', justifyContent: 'space-between' }}>
        <Box className="narrow" sx={{ color: 'text.secondary', fontSize: 12.5 }}>
          {fitting.own ? 'Now click the face of the other part.' : `Click a face of ${part.name}.`}
        </Box>
        <Button onClick={() => stopFitting(session)}>Leave it</Button>
      </Box>
    </Box>
  );
}
