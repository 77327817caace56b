'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import type { Cut } from '@wellmorph/core/plan/cuts';
import { learnedFrom } from '@wellmorph/core/plan/forecast';
import type { StageLeft } from '@wellmorph/core/plan/plan';
import type { Plan, PlannedPiece } from '@/server/plan';
import { STATIONS } from '@/shared/stations';
import { Heading } from '@/sheet/fields';
import { FigureTable } from '@/sheet/figure-table';
import { PageLink } from '@/sheet/page-link';
import { type Taken, useTakeCut } from './queries';
import { SpentHere } from './spent-here';
import { dayWords, inMinutes } from './words';

/** Whether a piece is ready in time, what is missing if not, and the changes that would help. */
export function DoesItFit({ plan, row, onTaken }: { plan: Plan; row: PlannedPiece; onTaken(taken: Taken): void }) {
  const take = useTakeCut(plan.hours);
  return (
    <>
      <Heading
        aside={
          <PageLink href={`/assets/${row.id}/brief`} style={{ color: 'inherit' }}>
            open
          </PageLink>
        }
      >
        {row.name}
      </Heading>
      <Box
        role="status"
        sx={{ fontSize: 15.5, fontWeight: 640, lineHeight: 1.35, mb: 0.8, color: row.fits === false ? 'error.main' : 'text.primary' }}
      >
        {verdict(plan, row)}
      </Box>
      {row.cuts.length > 0 && (
        <Box component="section" aria-label="changes that would help" sx={{ mb: 2 }}>
          <Heading>{row.cuts.some((c) => c.fits) ? 'Any of these alone would do' : 'These would help'}</Heading>
          {row.cuts.map((cut) => (
            <CutRow key={cut.id} cut={cut} busy={take.isPending} onTake={() => take.mutate({ row, cut }, { onSuccess: onTaken })} />
          ))}
        </Box>
      )}
      {row.fits === false && row.cuts.length === 0 && (
        <Box sx={{ fontSize: 13, color: 'text.secondary', mb: 2 }}>
          Nothing that can be cut wins enough: give it a later date, put it earlier in the order, or more hours a day.
        </Box>
      )}
      <Heading>What is left</Heading>
      <FigureTable
        label="what is left, by stage"
        columns={['stage', 'work', 'machine']}
        rows={[
          ...row.stages
            .filter((s) => !s.ready)
            .map((s) => ({
              key: s.stage,
              head: <span title={learnedFrom(s.work)}>{STATIONS.find((x) => x.id === s.stage)?.name}</span>,
              cells: [inMinutes(s.left), s.machine ? inMinutes(s.machine.minutes) : ''],
            })),
          ...(row.snagMinutes > 0 ? [{ key: 'snags', head: 'Snags', cells: [inMinutes(row.snagMinutes), ''] }] : []),
          { key: 'all', head: 'together', strong: true, cells: [inMinutes(row.work), inMinutes(row.machine)] },
        ]}
      />
      <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary', mt: 0.8 }}>
        {evidence(row.stages.filter((s) => !s.ready))}
      </Box>
      <SpentHere key={row.id} id={row.id} day={plan.day} />
    </>
  );
}

function verdict(plan: Plan, row: PlannedPiece): string {
  const ready = row.ready ? dayWords(row.ready, plan.day) : null;
  if (row.work + row.machine <= 0) return 'It is ready: nothing is left of it.';
  if (row.fits === null)
    return ready ? `It has no date. As things stand it is ready ${ready}.` : 'It has no date, and with these hours it is never ready.';
  const due = dayWords(row.due as string, plan.day);
  if (row.fits) return `It fits: ready ${ready}, due ${due}.`;
  const missing = [
    row.missingWork > 0 && `${inMinutes(row.missingWork)} of work`,
    row.missingMachine > 0 && `${inMinutes(row.missingMachine)} of the machine`,
  ]
    .filter(Boolean)
    .join(' and ');
  const past = (row.due as string) < plan.day ? ', a date that is past' : '';
  return `It doesn’t fit: due ${due}${past}, ready ${ready ?? 'never'}; ${missing} are missing.`;
}

function CutRow({ cut, busy, onTake }: { cut: Cut; busy: boolean; onTake(): void }) {
  const wins = [cut.work > 0.05 && `${inMinutes(cut.work)} of work`, cut.machine > 0.05 && `${inMinutes(cut.machine)} of the machine`]
    .filter(Boolean)
    .join(' and ');
  return (
    <Box sx={{ py: 0.8, borderBottom: 1, borderColor: 'sheet.faint' }}>
      <Box sx={{ display: 'flex', gap: 1, alignItems: 'flex-start' }}>
        <Box sx={{ flex: 1, minWidth: 0, fontSize: 13 }}>{cut.what}</Box>
        <Button variant={cut.fits ? 'contained' : 'outlined'} disabled={busy} onClick={onTake} aria-label={`Take: ${cut.what}`}>
          Take
        </Button>
      </Box>
      <Box className="narrow" sx={{ fontSize: 12.5, color: 'text.secondary' }}>
        {wins ? `Wins ${wins}` : 'Makes room'}; costs: {cut.costs}.{!cut.fits && ' Not enough alone.'}
      </Box>
    </Box>
  );
}

/** What the figures rest on, said once for all stages of a kind. */
function evidence(stages: readonly StageLeft[]): string {
  const guesses = stages.filter((s) => s.work.by === 'default');
  const learned = stages.filter((s) => s.work.by !== 'default');
  const names = (list: readonly StageLeft[]) => list.map((s) => STATIONS.find((x) => x.id === s.stage)?.name).join(', ');
  const machine = stages.filter((s) => s.machine && s.machine.by === 'default');
  return [
    learned.length > 0 && `${names(learned)}: ${learned.map((s) => learnedFrom(s.work)).join('; ')}.`,
    guesses.length > 0 && `${names(guesses)}: a first guess until five are finished.`,
    machine.length > 0 && `Minutes of the machine for ${names(machine)} are a guess until the piece itself has a run.`,
  ]
    .filter(Boolean)
    .join(' ');
}
