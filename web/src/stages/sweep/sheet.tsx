'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useQuery } from '@tanstack/react-query';
import { fieldName } from '@wellmorph/core/pipeline/field-names';
import { fileName } from '@wellmorph/core/pipeline/file-name';
import { useMemo, useState } from 'react';
import type { LoggedRun } from '@/server/db/runs';
import type { SweepSheet } from '@/server/db/sweeps';
import { get } from '@/session/api';
import { useSession } from '@/session/context';
import { sentence } from '@/session/session';
import { download } from '@/sheet/download';
import { Choice } from '@/sheet/fields';
import { Plain } from '@/sheet/plain';
import { shownValue } from '@/sheet/trial-words';
import { useTurn } from '@/workshop/queue';

const STATES = { waiting: 'waits', running: 'under way', paused: 'put off', done: 'done', stopped: 'stopped', failed: 'failed' } as const;
type Way = 'least' | 'most';

/** A sweep laid out as a sheet: one setting along, the other down, the best by a chosen figure marked. */
export function SweepSheetView({ id, onTaken }: { id: string; onTaken(): void }) {
  const session = useSession();
  const { data: sheet, error } = useQuery({ queryKey: ['runs', 'sweep', id], queryFn: () => get<SweepSheet>(`/api/sweeps/${id}`) });
  const [figure, setFigure] = useState<string | null>(null);
  const [way, setWay] = useState<Way>('least');
  const [chosen, setChosen] = useState<string | null>(null);
  const turn = useTurn();
  const runs = useMemo(() => sheet?.places.flatMap((p) => p.run ?? []) ?? [], [sheet]);
  const figures = useMemo(
    // Of what is the same in all of them none is the best.
    () =>
      [...new Set(runs.flatMap((r) => Object.keys(r.figures)))].filter(
        (k) => runs.every((r) => typeof r.figures[k] === 'number') && runs.some((r) => r.figures[k] !== runs[0].figures[k]),
      ),
    [runs],
  );
  const by = figure && figures.includes(figure) ? figure : (figures[0] ?? null);
  if (!sheet) return <Box sx={{ color: error ? 'error.main' : 'text.secondary', p: 2 }}>{error?.message ?? 'Opening the sheet …'}</Box>;
  const value = (r: LoggedRun) => (by ? Number(r.figures[by]) : Number.NaN);
  const best = runs
    .filter((r) => Number.isFinite(value(r)))
    .reduce<LoggedRun | null>((b, r) => (!b || (way === 'least' ? value(r) < value(b) : value(r) > value(b)) ? r : b), null);
  const [along, down] = sheet.axes;
  const one = runs.find((r) => r.id === chosen) ?? null;
  const open = sheet.places.filter((p) => !p.run && p.job && (p.job.state === 'waiting' || p.job.state === 'running'));
  const stopRest = () => {
    for (const { job } of open) if (job) turn.mutate({ job: job.id, turn: 'stop' });
  };
  const toFile = async () => {
    try {
      const pictures = await Promise.all(
        sheet.places.flatMap(({ run, place }) =>
          run?.thumbnail ? [session.bench.blobs.get(run.thumbnail).then((png) => ({ name: place.label, png }))] : [],
        ),
      );
      const { png } = await session.bench.pool.run('contactSheet', { pictures });
      download(`${fileName(sheet.asset)}_sweep.png`, png);
    } catch (e) {
      session.notify(sentence(e), 'error');
    }
  };
  return (
    <>
      <Box sx={{ display: 'flex', gap: 2, alignItems: 'center', mb: 1, flexWrap: 'wrap' }}>
        <Box role="status" sx={{ fontSize: 13 }}>
          {runs.length} of {sheet.of} made{open.length > 0 ? `, ${open.length} to come` : ''}
        </Box>
        {by && (
          <Box sx={{ display: 'flex', gap: 1 }}>
            <Choice
              label="best is"
              value={way}
              choices={[
                ['least', 'the least'],
                ['most', 'the most'],
              ]}
              onChange={setWay}
            />
            <Choice label="" value={by} choices={figures.map((f) => [f, fieldName(f)] as const)} onChange={setFigure} />
          </Box>
        )}
        <Box sx={{ flex: 1 }} />
        {sheet.stage === 'render' && (
          <Button variant="outlined" disabled={runs.length === 0} onClick={() => void toFile()}>
            Contact sheet
          </Button>
        )}
        {open.length > 0 && <Button onClick={stopRest}>Stop the rest</Button>}
      </Box>
      <Box tabIndex={0} role="region" aria-label="sheet of the sweep" sx={{ overflow: 'auto', maxHeight: '62vh' }}>
        <Box sx={{ display: 'grid', gridTemplateColumns: `84px repeat(${along.values.length}, minmax(96px, 1fr))`, gap: 0.8 }}>
          <Box className="narrow" sx={{ fontSize: 11.5, color: 'text.secondary' }}>
            {along.name} →{down && ` ${down.name} ↓`}
          </Box>
          {along.values.map((v) => (
            <Box key={v} className="mono" sx={{ fontSize: 12, textAlign: 'center' }}>
              {v}
            </Box>
          ))}
          {(down?.values ?? [null]).flatMap((d, row) => [
            <Box key={`row ${row}`} className="mono" sx={{ fontSize: 12, alignSelf: 'center' }}>
              {d}
            </Box>,
            ...along.values.map((_, column) => {
              const at = sheet.places.find((p) => p.place.row === row && p.place.column === column);
              return (
                <Cell
                  key={`${row} ${column}`}
                  at={at}
                  by={by}
                  best={best !== null && at?.run?.id === best.id}
                  chosen={at?.run?.id === chosen}
                  onChoose={setChosen}
                />
              );
            }),
          ])}
        </Box>
      </Box>
      {one && (
        <Box sx={{ mt: 1.2, display: 'flex', gap: 1.5, alignItems: 'center', fontSize: 13 }}>
          <b>Run {one.number}</b> {one.title}
          <Button variant="contained" onClick={() => void session.takeTrial(one).then(onTaken)}>
            Set the piece so
          </Button>
        </Box>
      )}
    </>
  );
}

function Cell({
  at,
  by,
  best,
  chosen,
  onChoose,
}: {
  at: SweepSheet['places'][number] | undefined;
  by: string | null;
  best: boolean;
  chosen: boolean;
  onChoose(id: string): void;
}) {
  const frame = { minHeight: 88, border: 1, borderColor: chosen || best ? 'primary.main' : 'divider', borderRadius: 1 } as const;
  if (!at?.run)
    return (
      <Box
        title={at?.job?.sentence ?? undefined}
        sx={{
          ...frame,
          display: 'grid',
          placeItems: 'center',
          color: at?.job?.state === 'failed' ? 'error.main' : 'text.secondary',
          fontSize: 12,
          borderStyle: 'dashed',
        }}
      >
        {at?.job ? STATES[at.job.state] : '–'}
      </Box>
    );
  const { run } = at;
  return (
    <Plain
      aria-pressed={chosen}
      aria-label={`${run.title}${best ? ', the best' : ''}`}
      onClick={() => onChoose(run.id)}
      sx={{
        ...frame,
        display: 'block',
        outline: chosen ? '1px solid' : 'none',
        outlineColor: 'primary.main',
        bgcolor: best ? 'sheet.tint' : undefined,
        p: 0.5,
      }}
    >
      {run.thumbnail && (
        <Box
          component="img"
          src={`/api/blobs/${run.thumbnail}`}
          alt=""
          sx={{ width: '100%', maxHeight: 120, objectFit: 'contain', display: 'block' }}
        />
      )}
      <Box className="narrow" sx={{ fontSize: 11.5, display: 'flex', justifyContent: 'space-between', gap: 0.5 }}>
        <span>{run.number}</span>
        <span className="mono">
          {best && 'best '}
          {by && run.figures[by] !== undefined ? shownValue(by, run.figures[by], 'mm') : ''}
        </span>
      </Box>
    </Plain>
  );
}
