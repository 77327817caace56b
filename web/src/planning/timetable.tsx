'use client';

import Box from '@mui/material/Box';
import type { Theme } from '@mui/material/styles';
import { dayNumber, dayOf, workOn } from '@wellmorph/core/plan/schedule';
import type { Plan, PlannedPiece } from '@/server/plan';
import { StatusMark } from '@/sheet/marks';
import { PageLink } from '@/sheet/page-link';
import { Act, Plain } from '@/sheet/plain';
import { SortableList, SortableRow } from '@/sheet/sortable';
import { useSetPlan } from './queries';
import { dateOfMonth, dayWords, inMinutes, weekdayLetter } from './words';

/** Days that are shown: three weeks, and as far as the last date in the next four. */
const SHOWN = { least: 21, most: 28 };
const HATCH = (colour: string) => `repeating-linear-gradient(135deg, ${colour} 0 1.5px, transparent 1.5px 4px)`;
const INK_HATCH = (t: Theme) => HATCH((t.vars ?? t).palette.text.primary);
const GRID = '18px 16px 84px minmax(110px, 168px) minmax(0, 1fr)';

/** One row a piece, in order of work: when it is due to the left, its hours over the days to the right. */
export function Timetable({
  plan,
  chosen,
  onChoose,
  week,
}: {
  plan: Plan;
  chosen: string | null;
  onChoose(id: string): void;
  /** The next seven days alone, with their minutes in figures: for paper. */
  week: boolean;
}) {
  const set = useSetPlan();
  const first = dayNumber(plan.day);
  const last = Math.max(...plan.rows.flatMap((r) => (r.due ? [dayNumber(r.due)] : [])), 0);
  const count = week ? 7 : Math.min(SHOWN.most, Math.max(SHOWN.least, last - first + 2));
  const days = Array.from({ length: count }, (_, i) => dayOf(first + i));
  const ids = plan.rows.map((r) => r.id);
  const move = (id: string, by: number) => {
    const order = [...ids];
    const from = order.indexOf(id);
    order.splice(from + by, 0, ...order.splice(from, 1));
    set.mutate({ order });
  };
  return (
    <Box
      component="section"
      aria-label="timetable"
      sx={{ bgcolor: 'background.paper', border: 1, borderColor: 'divider', p: 1, minWidth: 640 }}
    >
      <Box
        sx={{
          display: 'grid',
          gridTemplateColumns: GRID,
          columnGap: 0.8,
          alignItems: 'end',
          fontSize: 11.5,
          color: 'text.secondary',
          pb: 0.4,
          borderBottom: 1,
          borderColor: 'divider',
        }}
      >
        <span />
        <span />
        <span>due</span>
        <Box>
          piece{' '}
          {plan.order.length > 0 && (
            <Act quiet onClick={() => set.mutate({ order: [] })} sx={{ fontSize: 11.5 }}>
              earliest due first
            </Act>
          )}
        </Box>
        <Days days={days}>
          {(day, i) => (
            <Box
              key={day}
              sx={{
                textAlign: 'center',
                color: workOn(day, plan.hours) > 0 ? 'text.primary' : 'text.secondary',
                fontWeight: i === 0 ? 700 : 400,
                lineHeight: 1.2,
              }}
            >
              {weekdayLetter(day)}
              <br />
              {dateOfMonth(day)}
            </Box>
          )}
        </Days>
      </Box>
      <SortableList rows={plan.rows} onMove={move}>
        {plan.rows
          .filter((row) => !week || isIn(row, days))
          .map((row) => (
            <SortableRow key={row.id} id={row.id} name={row.name}>
              {(grip) => (
                <Row
                  plan={plan}
                  row={row}
                  days={days}
                  week={week}
                  grip={grip}
                  chosen={row.id === chosen && !week}
                  onChoose={() => onChoose(row.id)}
                />
              )}
            </SortableRow>
          ))}
      </SortableList>
      <Box className="narrow" sx={{ display: 'flex', gap: 2, mt: 0.8, fontSize: 12, color: 'text.secondary', alignItems: 'center' }}>
        <Key mark={<Box sx={{ width: 14, height: 11, bgcolor: 'primary.main' }} />} words="hours of work" />
        <Key
          mark={<Box sx={{ width: 14, height: 11, backgroundImage: INK_HATCH, border: 1, borderColor: 'text.secondary' }} />}
          words="hours of the machine"
        />
        <Key mark={<Box sx={{ width: 10, height: 13, borderRight: 2, borderColor: 'text.primary' }} />} words="due" />
        <span>Drag a row by its grip to put it earlier or later.</span>
      </Box>
    </Box>
  );
}

/** Whether anything of a piece falls on some days. */
const isIn = (row: PlannedPiece, days: readonly string[]): boolean =>
  row.shares.some((s) => days.includes(s.day)) || (row.due !== null && days.includes(row.due));

function Key({ mark, words }: { mark: React.ReactNode; words: string }) {
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.6 }}>
      {mark}
      {words}
    </Box>
  );
}

function Days({ days, children }: { days: readonly string[]; children(day: string, i: number): React.ReactNode }) {
  return <Box sx={{ display: 'grid', gridTemplateColumns: `repeat(${days.length}, minmax(0, 1fr))` }}>{days.map(children)}</Box>;
}

function Row({
  plan,
  row,
  days,
  week,
  grip,
  chosen,
  onChoose,
}: {
  plan: Plan;
  row: PlannedPiece;
  days: readonly string[];
  week: boolean;
  grip: React.ReactNode;
  chosen: boolean;
  onChoose(): void;
}) {
  const share = new Map(row.shares.map((s) => [s.day, s]));
  const beyond = row.ready !== null && row.ready > days[days.length - 1];
  const nothing = row.work + row.machine <= 0;
  const words = nothing
    ? `${row.name} is ready`
    : `${row.name}: ${inMinutes(row.work)} of work and ${inMinutes(row.machine)} of the machine, ${row.ready ? `ready ${dayWords(row.ready, plan.day)}` : 'never ready with these hours'}`;
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateColumns: GRID,
        columnGap: 0.8,
        alignItems: 'center',
        minHeight: 30,
        borderBottom: 1,
        borderColor: 'sheet.faint',
        bgcolor: chosen ? 'sheet.tint' : undefined,
      }}
    >
      {grip}
      <StatusMark status={row.fits === false ? 'over' : row.fits === null ? 'none' : 'ok'} size={14} />
      <Box className="mono" sx={{ fontSize: 12, color: row.fits === false ? 'error.main' : 'text.primary', whiteSpace: 'nowrap' }}>
        {row.due ? dayWords(row.due, plan.day) : '–'}
      </Box>
      <Plain aria-pressed={chosen} onClick={onChoose} title={words} sx={{ minWidth: 0, fontSize: 13 }}>
        <Box component="span" sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
          {row.name}
        </Box>
      </Plain>
      <Box role="img" aria-label={words} sx={{ position: 'relative' }}>
        <Days days={days}>
          {(day) => {
            const s = share.get(day);
            const most = Math.max(workOn(day, plan.hours), 60);
            return (
              <Box
                key={day}
                sx={{
                  height: week ? 34 : 24,
                  display: 'flex',
                  flexDirection: 'column',
                  justifyContent: 'flex-end',
                  bgcolor: workOn(day, plan.hours) === 0 ? 'sheet.faint' : undefined,
                  borderLeft: 1,
                  borderColor: 'sheet.faint',
                  boxShadow: (t) =>
                    day === row.due
                      ? `inset -2px 0 0 ${row.fits === false ? (t.vars ?? t).palette.error.main : (t.vars ?? t).palette.text.primary}`
                      : 'none',
                }}
              >
                {s && s.machine > 0 && (
                  <Box
                    sx={{
                      height: Math.max(3, Math.min(9, (9 * s.machine) / Math.max(1, 60 * plan.hours.machine))),
                      backgroundImage: INK_HATCH,
                      borderTop: 1,
                      borderColor: 'text.secondary',
                    }}
                  />
                )}
                {week && s && (
                  <Box className="narrow" sx={{ fontSize: 11, lineHeight: 1.1, px: 0.4, whiteSpace: 'nowrap' }}>
                    {[s.work > 0 && inMinutes(s.work), s.machine > 0 && `machine ${inMinutes(s.machine)}`].filter(Boolean).join(', ')}
                  </Box>
                )}
                {s && s.work > 0 && (
                  <Box sx={{ height: Math.max(2, Math.min(16, (16 * s.work) / most)), bgcolor: 'primary.main', mx: '1px' }} />
                )}
              </Box>
            );
          }}
        </Days>
        {((beyond && !week) || nothing) && (
          <Box
            className="narrow"
            sx={{
              position: 'absolute',
              right: 4,
              top: 4,
              fontSize: 11.5,
              color: 'text.secondary',
              bgcolor: chosen ? 'sheet.tint' : 'background.paper',
              px: 0.4,
            }}
          >
            {nothing ? (
              <PageLink href={`/assets/${row.id}/hand-off`} style={{ color: 'inherit' }}>
                ready
              </PageLink>
            ) : (
              `ready ${dayWords(row.ready as string, plan.day)} →`
            )}
          </Box>
        )}
      </Box>
    </Box>
  );
}
