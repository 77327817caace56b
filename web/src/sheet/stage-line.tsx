'use client';

import Box from '@mui/material/Box';
import { useMemo } from 'react';
import { useSheet } from '@/session/context';
import { type Standing, stationStatuses } from '@/session/statuses';
import { STATIONS, type Station } from '@/shared/stations';
import { StatusMark, statusWords } from './marks';
import { PageLink } from './page-link';

/** The main way about, and how the piece stands: each station with its worst status. */
export function StageLine({ id, station }: { id: string; station: Station }) {
  const standing: Standing = {
    document: useSheet((s) => s.document),
    form: useSheet((s) => s.form),
    findings: useSheet((s) => s.findings),
    look: useSheet((s) => s.look),
    unwrap: useSheet((s) => s.unwrap),
    bake: useSheet((s) => s.bake),
    surface: useSheet((s) => s.surface),
    render: useSheet((s) => s.render),
    forming: useSheet((s) => s.forming),
  };
  const statuses = useMemo(() => stationStatuses(standing), Object.values(standing));
  return (
    <Box
      component="nav"
      aria-label="stages"
      sx={{ display: 'grid', gridTemplateColumns: 'repeat(8, 1fr)', px: 2, borderBottom: 1, borderColor: 'divider', position: 'relative' }}
    >
      {STATIONS.map((s, i) => {
        const here = s.id === station;
        const status = statuses?.[s.id] ?? 'none';
        return (
          <Box
            key={s.id}
            component={PageLink}
            href={`/assets/${id}/${s.id}`}
            aria-current={here ? 'page' : undefined}
            title={`${s.name}: ${statusWords(status)} (${i + 1})`}
            sx={{
              position: 'relative',
              display: 'flex',
              flexDirection: 'column',
              alignItems: 'center',
              gap: '2px',
              pt: '7px',
              pb: '5px',
              textDecoration: 'none',
              color: here ? 'primary.main' : 'text.primary',
              fontWeight: here ? 660 : 450,
              fontSize: 13,
              '&:focus-visible': { outline: '2px solid', outlineColor: 'primary.main', outlineOffset: -2 },
            }}
          >
            {i > 0 && (
              <Box
                sx={{
                  position: 'absolute',
                  top: 15,
                  right: 'calc(50% + 14px)',
                  width: 'calc(100% - 28px)',
                  borderTop: 1,
                  borderColor: 'divider',
                }}
              />
            )}
            <StatusMark status={status} />
            {s.name}
            {here && <Box sx={{ position: 'absolute', bottom: -1, left: '18%', right: '18%', height: 3, bgcolor: 'primary.main' }} />}
          </Box>
        );
      })}
    </Box>
  );
}
