'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useEffect, useState } from 'react';
import { useBench } from '@/session/context';
import { Notices } from '@/sheet/notices';
import { Act } from '@/sheet/plain';
import { TopBar } from '@/sheet/top-bar';
import { DoesItFit } from './does-it-fit';
import { Estimates } from './estimates';
import { HoursMargin } from './hours';
import { type Taken, usePlan, useToday } from './queries';
import { Timetable } from './timetable';

const ON_SCREEN = { '@media print': { display: 'none' } } as const;

/** What is left of every piece, when it will be ready, and what would help where that is too late. */
export function PlanView() {
  const day = useToday();
  const { data: plan, error } = usePlan(day);
  const [chosen, setChosen] = useState<string | null>(null);
  const [taken, setTaken] = useState<Taken | null>(null);
  const bench = useBench();
  // On paper there is the week alone, in figures; the page is as it was once that is done.
  const [week, setWeek] = useState(false);
  useEffect(() => {
    if (!week) return;
    const done = () => setWeek(false);
    window.addEventListener('afterprint', done);
    const timer = setTimeout(() => window.print(), 50);
    return () => {
      clearTimeout(timer);
      window.removeEventListener('afterprint', done);
    };
  }, [week]);
  const late = plan?.rows.filter((r) => r.fits === false) ?? [];
  // What was chosen may be gone; the first that is late is what one comes here for.
  const row = plan?.rows.find((r) => r.id === chosen) ?? late[0] ?? plan?.rows[0];
  const dated = plan?.rows.filter((r) => r.due).length ?? 0;
  return (
    <Box sx={{ height: '100vh', minWidth: 1024, display: 'grid', gridTemplateRows: 'auto minmax(0, 1fr)' }}>
      <TopBar
        here="plan"
        aside={
          plan
            ? `${plan.rows.length} ${plan.rows.length === 1 ? 'piece' : 'pieces'} · ${dated} with a date${late.length > 0 ? ` · ${late.length} won’t be ready in time` : ''}`
            : 'opening …'
        }
      >
        <Button variant="outlined" onClick={() => setWeek(true)} sx={ON_SCREEN}>
          Print the week
        </Button>
        <Button variant="outlined" href={`/api/plan/calendar?day=${day}`} sx={ON_SCREEN}>
          As a calendar
        </Button>
      </TopBar>
      <Box sx={{ display: 'grid', gridTemplateColumns: '236px minmax(0, 1fr) 300px', minHeight: 0, '@media print': { display: 'block' } }}>
        <Box
          component="section"
          aria-label="hours"
          sx={{
            overflowY: 'auto',
            p: 1.6,
            borderRight: 1,
            borderColor: 'divider',
            bgcolor: 'background.paper',
            '@media print': { display: 'none' },
          }}
        >
          {plan && <HoursMargin plan={plan} />}
        </Box>
        <Box component="main" sx={{ overflow: 'auto', p: 1.6, bgcolor: 'sheet.plate', minWidth: 0 }}>
          {error && !plan && (
            <Box role="alert" sx={{ color: 'error.main' }}>
              {error.message}
            </Box>
          )}
          {plan?.rows.length === 0 && (
            <Box sx={{ color: 'text.secondary' }}>
              There is nothing to plan yet: make a piece in the workshop, and give it a date in its brief.
            </Box>
          )}
          {plan && plan.rows.length > 0 && <Timetable plan={plan} week={week} chosen={row?.id ?? null} onChoose={setChosen} />}
          {plan && plan.estimates.length > 0 && <Estimates plan={plan} />}
        </Box>
        <Box
          component="section"
          aria-label="does it fit"
          tabIndex={0}
          sx={{
            overflowY: 'auto',
            p: 1.6,
            borderLeft: 1,
            borderColor: 'divider',
            bgcolor: 'background.paper',
            '@media print': { display: 'none' },
          }}
        >
          {taken && (
            <Box role="status" sx={{ mb: 1.2, fontSize: 13 }}>
              Taken: {taken.what}.{' '}
              <Act
                onClick={() => {
                  taken.back().catch((e: Error) => bench.notify(e.message, 'error'));
                  setTaken(null);
                }}
              >
                Undo
              </Act>
            </Box>
          )}
          {plan && row && <DoesItFit plan={plan} row={row} onTaken={setTaken} />}
        </Box>
      </Box>
      <Notices />
    </Box>
  );
}
