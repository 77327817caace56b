'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import { useQuery } from '@tanstack/react-query';
import { fieldName } from '@wellmorph/core/pipeline/field-names';
import { compareRuns, isProposed } from '@wellmorph/core/plan/compare';
import { useEffect, useState } from 'react';
import type { LoggedRun } from '@/server/db/runs';
import type { Card } from '@/server/workshop';
import { get } from '@/session/api';
import { STATIONS } from '@/shared/stations';
import { Choice, Heading } from '@/sheet/fields';
import { FigureTable } from '@/sheet/figure-table';
import { PageLink } from '@/sheet/page-link';
import { Act, Written } from '@/sheet/plain';
import { shownValue, took } from '@/sheet/trial-words';
import { PinLesson } from './lessons';
import { useJudge, useTakeUp } from './queries';
import { when } from './wanted';

/** The runs that were chosen: one in full; of several what can be done about them. */
export function Chosen({ runs, listed, onClear }: { runs: readonly LoggedRun[]; listed: readonly LoggedRun[]; onClear(): void }) {
  if (runs.length === 0)
    return (
      <>
        <Heading>No run chosen</Heading>
        <Box sx={{ color: 'text.secondary', fontSize: 13 }}>
          Choose one to see what it was and to take its settings up again, on its piece or on another; two to six to see what made the
          difference.
        </Box>
      </>
    );
  return (
    <>
      <Heading aside={<Act onClick={onClear}>none</Act>}>
        {runs.length === 1 ? `Run ${runs[0].number}` : `${runs.length} runs chosen`}
      </Heading>
      {runs.length === 1 ? <Whole run={runs[0]} /> : <WouldTell runs={runs} listed={listed} />}
      {runs.length > 1 && runs.map((r) => <Verdict key={r.id} run={r} named />)}
    </>
  );
}

function Whole({ run }: { run: LoggedRun }) {
  const rows = (of: Record<string, unknown>) =>
    Object.entries(of).map(([key, v]) => ({ key, head: fieldName(key), cells: [shownValue(key, v, 'mm')] }));
  return (
    <>
      {run.thumbnail && (
        <Box
          component="img"
          src={`/api/blobs/${run.thumbnail}`}
          alt=""
          sx={{ width: '100%', maxHeight: 170, objectFit: 'contain', bgcolor: 'sheet.paper' }}
        />
      )}
      <Box sx={{ fontWeight: 640, mt: 0.6 }}>{run.title}</Box>
      <Box className="narrow" sx={{ fontSize: 12.5, color: 'text.secondary' }}>
        {run.deleted ? (
          <s>{run.asset}</s>
        ) : (
          <PageLink href={`/assets/${run.assetId}/${run.stage}`} style={{ color: 'inherit' }}>
            {run.asset}
          </PageLink>
        )}
        , {when(run.at)}
        {run.milliseconds > 0 && `, took ${took(run)}`}
      </Box>
      <Verdict run={run} />
      <TakeUp run={run} />
      <FigureTable label="came to" columns={['came to', '']} rows={rows(run.figures)} />
      <FigureTable wrap label="set to" columns={['set to', '']} rows={rows(run.settings)} />
      <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary', mt: 0.8 }}>
        {(run.setAside ?? []).length === 0
          ? 'No advice was set aside when it was made.'
          : `Set aside when it was made: ${(run.setAside ?? []).map((w) => `“${w.reason}”`).join(', ')}${ENDED[run.verdict] ?? '.'}`}
        {run.program && <Box>Made by: {run.program}.</Box>}
      </Box>
      <PinLesson run={run} />
    </>
  );
}
const ENDED: Record<string, string> = { kept: '; the run was kept all the same.', dropped: '; the run was dropped.' };

function Verdict({ run, named }: { run: LoggedRun; named?: boolean }) {
  const judge = useJudge();
  const [note, setNote] = useState<string | null>(null);
  const done = () => {
    if (note !== null && note !== run.note) judge.mutate({ run, note });
    setNote(null);
  };
  return (
    <Box sx={{ mt: 1 }}>
      {named && (
        <Box sx={{ fontSize: 12.5 }}>
          <b>Run {run.number}</b> {run.asset}, {run.title}
        </Box>
      )}
      <Box sx={{ display: 'flex', gap: 1, alignItems: 'center' }}>
        <ToggleButtonGroup
          value={run.verdict}
          onChange={(_, v) => judge.mutate({ run, verdict: v ?? 'open' })}
          aria-label={`verdict on run ${run.number}`}
        >
          <ToggleButton value="kept">kept</ToggleButton>
          <ToggleButton value="dropped">dropped</ToggleButton>
        </ToggleButtonGroup>
        <Written
          line
          placeholder="note"
          value={note ?? run.note}
          inputProps={{ 'aria-label': `Note on run ${run.number}`, maxLength: 500 }}
          onChange={(e) => setNote(e.target.value)}
          onBlur={done}
          onKeyDown={(e) => e.key === 'Enter' && done()}
          sx={{ flex: 1, minWidth: 0, fontSize: 12.5 }}
        />
      </Box>
    </Box>
  );
}

/** A box of advice: what it is, why, what can be done. */
function Note({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <Box
      sx={{
        border: 1,
        borderColor: 'divider',
        borderLeft: 4,
        borderLeftColor: 'primary.main',
        borderRadius: 1,
        p: 1.2,
        mt: 1.2,
        fontSize: 13,
      }}
    >
      <b>{title}</b> {children}
    </Box>
  );
}

function TakeUp({ run }: { run: LoggedRun }) {
  const { data: cards = [] } = useQuery({ queryKey: ['cards'], queryFn: () => get<Card[]>('/api/assets') });
  const [piece, setPiece] = useState(run.assetId);
  useEffect(() => setPiece(run.assetId), [run.id, run.assetId]);
  const take = useTakeUp();
  // What was said of another run is not said of this one.
  useEffect(() => take.reset(), [run.id, piece]);
  const there = cards.find((c) => c.id === piece);
  const own = piece === run.assetId;
  if (!run.canTake)
    return <Note title="Kept without its settings.">It is from before they were kept whole, and can’t be taken up again.</Note>;
  const pieces = cards.filter((c) => run.stage !== 'form' || c.id === run.assetId);
  return (
    <Note title="Take it up again.">
      {own
        ? 'Everything is set as it was, and what it came to is found by its name: the same bytes.'
        : 'The settings of this stage, made fit for that piece’s size.'}
      <Choice
        label="on"
        value={piece}
        choices={pieces.map((c) => [c.id, c.id === run.assetId ? `${c.name}, its own` : c.name] as const)}
        onChange={setPiece}
      />
      <Button variant="contained" disabled={!there || take.isPending} onClick={() => take.mutate({ run: run.id, asset: piece })}>
        Set {there?.name ?? 'the piece'} so
      </Button>
      {take.data && (
        <Box role="status" sx={{ mt: 0.8, fontSize: 12.5 }}>
          Set; undo on its sheet brings back what was set before.{' '}
          {take.data.reasons.map((r) => (
            <Box key={r} sx={{ mt: 0.4, color: 'text.secondary' }}>
              {r}
            </Box>
          ))}
          <PageLink href={`/assets/${piece}/${take.data.stage}`} style={{ color: 'inherit' }}>
            Open {there?.name} at {STATIONS.find((s) => s.id === take.data.stage)?.name}
          </PageLink>
        </Box>
      )}
    </Note>
  );
}

/** Where the cause can’t be told: the run that would tell, or the one that does. */
function WouldTell({ runs, listed }: { runs: readonly LoggedRun[]; listed: readonly LoggedRun[] }) {
  const take = useTakeUp();
  const { wouldTell } = compareRuns(runs);
  useEffect(() => take.reset(), [runs]);
  if (!wouldTell) return null;
  const [from, like] = [runs[wouldTell.from], runs[wouldTell.like]];
  const value = shownValue(wouldTell.key, wouldTell.value, 'mm');
  const there = listed.find((r) => r.assetId === from.assetId && r.stage === from.stage && !runs.includes(r) && isProposed(wouldTell, r));
  if (there)
    return (
      <Note title="One run tells.">
        Run {there.number} is run {from.number} with “{fieldName(wouldTell.key)}” {value}: choose it too.
      </Note>
    );
  return (
    <Note title="One run would tell.">
      Between runs {from.number} and {like.number} several settings changed. Run {from.number} with “{fieldName(wouldTell.key)}” {value}{' '}
      would show which.
      {from.canTake && !from.deleted && (
        <Box sx={{ mt: 0.8 }}>
          <Button
            variant="outlined"
            disabled={take.isPending}
            onClick={() => take.mutate({ run: from.id, asset: from.assetId, other: { run: like.id, key: wouldTell.key } })}
          >
            Set {from.asset} so
          </Button>
        </Box>
      )}
      {take.data && (
        <Box role="status" sx={{ mt: 0.8, fontSize: 12.5 }}>
          Set;{' '}
          <PageLink href={`/assets/${from.assetId}/${take.data.stage}`} style={{ color: 'inherit' }}>
            make the run on its sheet
          </PageLink>
          .
        </Box>
      )}
    </Note>
  );
}
