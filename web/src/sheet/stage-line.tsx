'use client';

import Box from '@mui/material/Box';
import { allFindings } from '@wellmorph/core/pipeline/all-findings';
import type { Kept } from '@wellmorph/core/pipeline/results';
import { stageStatuses } from '@wellmorph/core/pipeline/status';
import Link from 'next/link';
import { useMemo } from 'react';
import { useSheet } from '@/session/context';
import { isFresh } from '@/session/state';
import { STATIONS, type Station } from '@/shared/stations';
import { StatusMark, statusWords } from './marks';

/** The main way about, and how the piece stands: each station with its worst status. */
export function StageLine({ id, station }: { id: string; station: Station }) {
  const document = useSheet((s) => s.document);
  const form = useSheet((s) => s.form);
  const found = useSheet((s) => s.findings);
  const look = useSheet((s) => s.look);
  const layout = useSheet((s) => s.unwrap);
  const bake = useSheet((s) => s.bake);
  const surface = useSheet((s) => s.surface);
  const render = useSheet((s) => s.render);
  const forming = useSheet((s) => s.forming);
  const findings = useMemo(() => (document && form ? allFindings(document, { findings: found, look }) : []), [document, form, found, look]);
  const statuses = useMemo(() => {
    if (!document) return null;
    const made = <T,>(kind: Kept, view: { name: string; figures: T } | null) =>
      view ? { figures: view.figures, fresh: isFresh(document, view, kind) } : undefined;
    const isThere = form !== null && form.gpu.length > 0;
    return stageStatuses(document, {
      form: isThere ? { findings, fresh: forming || isFresh(document, form, 'form') } : undefined,
      unwrap: made('unwrap', layout),
      bake: made('bake', bake),
      surface: made('surface', surface),
      render: made('render', render),
    });
  }, [document, form, findings, forming, layout, bake, surface, render]);
  return (
    <Box
      component="nav"
      aria-label="stages"
      sx={{ display: 'grid', gridTemplateColumns: 'repeat(8, 1fr)', px: 2, borderBottom: 1, borderColor: 'divider', position: 'relative' }}
    >
      {STATIONS.map((s, i) => {
        const here = s.id === station;
        const status = !statuses ? 'none' : s.id === 'brief' ? 'ok' : statuses[s.id];
        return (
          <Box
            key={s.id}
            component={Link}
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
