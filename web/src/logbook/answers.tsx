'use client';

import Box from '@mui/material/Box';
import { fieldName } from '@wellmorph/core/pipeline/field-names';
import { compareRuns } from '@wellmorph/core/plan/compare';
import { lawOf, pointsOf, QUESTIONS, type Question, type QuestionName } from '@wellmorph/core/plan/laws';
import { figure } from '@wellmorph/core/units/lengths';
import { type ReactNode, useMemo, useState } from 'react';
import { Chart } from '@/plates/chart';
import type { LoggedRun } from '@/server/db/runs';
import { BakesOver } from '@/sheet/bakes-over';
import { Choice } from '@/sheet/fields';
import { FigureTable } from '@/sheet/figure-table';
import { LayoutsOver } from '@/sheet/layouts-over';
import { shownValue, took } from '@/sheet/trial-words';
import { Wipe } from '@/sheet/wipe';
import { PAPER } from '@/theme/theme';

function Leaf({ title, aside, children }: { title: string; aside?: ReactNode; children: ReactNode }) {
  return (
    <Box
      component="section"
      aria-label={title}
      sx={{ bgcolor: 'background.paper', border: 1, borderColor: 'divider', p: 1.4, minWidth: 0 }}
    >
      <Box sx={{ display: 'flex', gap: 1, alignItems: 'baseline', mb: 0.6 }}>
        <Box component="h2" sx={{ m: 0, fontSize: 13.5, fontWeight: 660 }}>
          {title}
        </Box>
        <Box className="narrow" sx={{ fontSize: 12.5, color: 'text.secondary', flex: 1, minWidth: 0 }}>
          {aside}
        </Box>
      </Box>
      {children}
    </Box>
  );
}

const NUMBERS = ['', 'One', 'Two', 'Three', 'Four', 'Five', 'Six'];

/** What chosen runs say: side by side, and as points of a chart with the law they follow. */
export function Answers({
  chosen,
  listed,
  stage,
  onOpen,
}: {
  chosen: readonly LoggedRun[];
  listed: readonly LoggedRun[];
  stage?: string;
  onOpen(id: string): void;
}) {
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: chosen.length > 1 ? 'minmax(0, 1fr) minmax(0, 1fr)' : '1fr', gap: 1.6, mt: 1.6 }}>
      {chosen.length > 1 && <SideBySide runs={chosen} />}
      <Charted
        runs={chosen.length > 2 ? chosen : listed}
        of={chosen.length > 2 ? 'the chosen runs' : 'the runs listed'}
        stage={stage}
        onOpen={onOpen}
      />
      {chosen.length > 1 && <Pictures runs={chosen} />}
    </Box>
  );
}

function SideBySide({ runs }: { runs: readonly LoggedRun[] }) {
  const { settings, figures, sentence, wouldTell } = useMemo(() => compareRuns(runs), [runs]);
  const row = ([key, ...values]: [string, ...unknown[]]) => ({
    key,
    head: fieldName(key),
    cells: values.map((v) => shownValue(key, v, 'mm')),
  });
  const one = runs.every((r) => r.stage === runs[0].stage);
  return (
    <Leaf title={`${NUMBERS[runs.length]} runs`} aside={one ? undefined : 'of different stages: only what both have can be compared'}>
      <Box sx={{ fontSize: 12.5, color: wouldTell ? 'warning.main' : 'text.primary', mb: 0.6 }}>{sentence}</Box>
      <Box tabIndex={0} role="region" aria-label="settings and figures side by side" sx={{ overflowX: 'auto' }}>
        <FigureTable
          wrap
          label="settings that differ, and figures"
          columns={['', ...runs.map((r) => `run ${r.number}`)]}
          rows={[
            ...settings.map((s) => ({ ...row(s), strong: true })),
            ...figures.map(row),
            { key: 'took', head: 'took', cells: runs.map(took) },
          ]}
        />
      </Box>
    </Leaf>
  );
}

const blob = (hash: string) => `/api/blobs/${hash}`;
const nameOf = (r: LoggedRun) => `run ${r.number}, ${r.title}`;

/** Two of one stage over each other, or wiped; null where they have nothing that can be. */
function over(a: LoggedRun, b: LoggedRun): ReactNode {
  if (a.stage !== b.stage) return null;
  if (a.stage === 'unwrap') return <LayoutsOver key={`${a.id} ${b.id}`} a={a} b={b} />;
  if (a.stage === 'bake') return a.resultName && b.resultName ? <BakesOver key={`${a.id} ${b.id}`} a={a} b={b} /> : null;
  if ((a.stage !== 'render' && a.stage !== 'surface') || !a.thumbnail || !b.thumbnail) return null;
  return <Wipe left={blob(a.thumbnail)} right={blob(b.thumbnail)} names={[nameOf(a), nameOf(b)]} />;
}

/** Two are laid over each other or wiped; more stand in a row, and any two of them can be laid over each other. */
function Pictures({ runs }: { runs: readonly LoggedRun[] }) {
  const [wanted, setWanted] = useState('');
  const pairs = runs.flatMap((a, i) => runs.slice(i + 1).map((b) => ({ key: `${a.id} ${b.id}`, a, b, shown: over(a, b) })));
  const can = pairs.filter((p) => p.shown);
  const laid = runs.length === 2 ? can[0] : can.find((p) => p.key === wanted);
  return (
    <Box sx={{ gridColumn: '1 / -1' }}>
      <Leaf
        title="Their pictures"
        aside={
          runs.length > 2 &&
          can.length > 0 && (
            <Choice
              label="Two over each other"
              value={laid ? wanted : ''}
              choices={[
                ['', 'none: all in a row'],
                ...can.map(({ key, a, b }): [string, string] => [key, `run ${a.number} and run ${b.number}`]),
              ]}
              onChange={setWanted}
            />
          )
        }
      >
        {laid ? (
          laid.shown
        ) : (
          <Box sx={{ display: 'flex', gap: 1 }}>
            {runs.map((r) => (
              <Box component="figure" key={r.id} sx={{ m: 0, flex: 1, minWidth: 0 }}>
                {r.thumbnail ? (
                  <Box
                    component="img"
                    src={blob(r.thumbnail)}
                    alt=""
                    sx={{ width: '100%', height: 240, objectFit: 'contain', bgcolor: 'sheet.paper' }}
                  />
                ) : (
                  <Box sx={{ height: 240, display: 'grid', placeItems: 'center', color: 'text.secondary', bgcolor: 'sheet.paper' }}>
                    no picture
                  </Box>
                )}
                <Box
                  component="figcaption"
                  className="narrow"
                  sx={{ fontSize: 12, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}
                >
                  {nameOf(r)}
                </Box>
              </Box>
            ))}
          </Box>
        )}
      </Leaf>
    </Box>
  );
}

/** An axis of round figures about a range: five or so of them. */
function niceAxis(least: number, most: number): { min: number; max: number; tickAmount: number } {
  const span = most - least || Math.abs(most) || 1;
  const rough = span / 5;
  const power = 10 ** Math.floor(Math.log10(rough));
  const step = power * ([1, 2, 5].find((m) => m * power >= rough) ?? 10);
  const [min, max] = [Math.floor(least / step) * step, Math.ceil(most / step) * step || step];
  return { min, max: max > min ? max : min + step, tickAmount: Math.max(1, Math.round((max - min) / step)) };
}
const shortAxis = (v: number): string => (Math.abs(v) >= 1000 ? figure(v, 0) : String(Number(v.toPrecision(3))));

function Charted({ runs, of, stage, onOpen }: { runs: readonly LoggedRun[]; of: string; stage?: string; onOpen(id: string): void }) {
  const [asked, setAsked] = useState<QuestionName | null>(null);
  const could = useMemo(
    () =>
      (Object.keys(QUESTIONS) as QuestionName[]).filter((name) => {
        const q: Question = QUESTIONS[name];
        return q.stages.some((s) => (stage ? s === stage : runs.some((r) => r.stage === s)));
      }),
    [runs, stage],
  );
  const name = asked && could.includes(asked) ? asked : (could.find((q) => answering(QUESTIONS[q], runs).points.length > 2) ?? could[0]);
  if (!name)
    return (
      <Leaf title="Chart">
        <Box sx={{ color: 'text.secondary', fontSize: 12.5 }}>
          Runs with figures that can be charted are those of Form, Unwrap, Bake, Surface and Render.
        </Box>
      </Leaf>
    );
  return (
    <Leaf title={QUESTIONS[name].name} aside={of}>
      <Box sx={{ maxWidth: 300 }}>
        <Choice label="ask them" value={name} choices={could.map((q) => [q, QUESTIONS[q].name] as const)} onChange={setAsked} />
      </Box>
      <Law question={QUESTIONS[name]} runs={runs} onOpen={onOpen} />
    </Leaf>
  );
}

/** The runs that a question is about, their points, and the law these follow. */
function answering(question: Question, all: readonly LoggedRun[]) {
  const runs = all.filter((r) => question.stages.includes(r.stage));
  const points = pointsOf(question, runs);
  return { runs, points, law: lawOf(question, points) };
}

function Law({ question, runs: all, onOpen }: { question: Question; runs: readonly LoggedRun[]; onOpen(id: string): void }) {
  const { runs, points, law } = useMemo(() => answering(question, all), [question, all]);
  if (points.length === 0) return <Box sx={{ color: 'text.secondary', fontSize: 12.5 }}>None of these runs has both figures.</Box>;
  const [first, last] = [points[0].x, points[points.length - 1].x];
  const curve =
    typeof law === 'string'
      ? []
      : Array.from({ length: 41 }, (_, i) => first + ((last - first) * i) / 40).map((x) => ({ x, y: Number(law.at(x).toPrecision(5)) }));
  return (
    <>
      <Chart
        kind="line"
        height={220}
        label={`${question.name}: ${points.length} runs. ${typeof law === 'string' ? law : law.sentence}`}
        onPoint={(series, index) => series === 0 && points[index] && onOpen(runs[points[index].run].id)}
        series={[
          { name: question.y.name, type: 'scatter', data: points.map(({ x, y }) => ({ x, y })) },
          ...(curve.length > 0 ? [{ name: 'law', type: 'line', data: curve }] : []),
        ]}
        options={{
          colors: [PAPER.accent, PAPER.muted],
          stroke: { width: [0, 1.5], curve: 'straight' },
          markers: { size: [6, 0], strokeWidth: 0, hover: { sizeOffset: 2 } },
          xaxis: {
            type: 'numeric',
            ...niceAxis(first, last),
            title: { text: question.x.name, style: { fontWeight: 400 } },
            labels: { formatter: (v) => shortAxis(Number(v)) },
          },
          yaxis: { title: { text: question.y.name, style: { fontWeight: 400 } }, labels: { formatter: shortAxis } },
          tooltip: { shared: false, intersect: true, x: { formatter: (v) => `${question.x.name} ${shortAxis(v)}` } },
        }}
      />
      <Box sx={{ fontSize: 12.5, color: 'text.secondary' }}>{typeof law === 'string' ? law : law.sentence} A point opens its run.</Box>
    </>
  );
}
