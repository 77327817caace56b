'use client';

import Box from '@mui/material/Box';
import { adviseBrief, pixelMm } from '@wellmorph/core/brief/advice';
import type { Budget } from '@wellmorph/core/form/budget/solve';
import { allowedCount } from '@wellmorph/core/form/step';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { chosenCount } from '@wellmorph/core/pipeline/form';
import { budgetProblem, measuredFrom, sameLook, solveAsset } from '@wellmorph/core/pipeline/solve';
import { figure } from '@wellmorph/core/units/lengths';
import { useMemo, useState } from 'react';
import { Chart } from '@/plates/chart';
import { useLengths, useSession, useSheet } from '@/session/context';
import { sentence } from '@/session/session';
import { AdviceCard } from '@/sheet/advice';
import { Heading } from '@/sheet/fields';
import { SliderField } from '@/sheet/slider';
import { acceptBudget, dropBudget, simplifyTo, solve } from '@/stages/form/run';
import { IdleTriangles, Levels, MemoryTable, PartLedger } from './ledger';
import { useFindings } from './look';

/** Spends the triangle limit where the outline needs it, and shows what a triangle buys. */
export function BudgetPanel() {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const form = useSheet((s) => s.form);
  const budget = useSheet((s) => s.budget);
  const busy = useSheet((s) => s.job !== null);
  const [trying, setTrying] = useState<number | null>(null);
  const findings = useFindings();
  // Arithmetic on a few dozen counts: some 6 ms for the lantern, so it may stand here; nothing of it is shown before the piece is formed.
  const recipes = document?.parts.some((p) => p.shape.kind === 'recipe' && p.shape.steps.length > 0) ?? false;
  const { made: curve, why } = useMemo(
    () =>
      document && form && recipes
        ? tried(() => solveAsset(document, measuredFrom(document, form?.ledger.parts ?? [], form?.steps ?? [])))
        : { made: null, why: null },
    [document, recipes, form?.ledger, form?.steps, form === null],
  );
  // The same while a limit is dragged: what it would come to, before anything is formed.
  const guess = useMemo(
    () =>
      document && trying !== null
        ? tried(() => solveAsset(document, measuredFrom(document, form?.ledger.parts ?? [], form?.steps ?? []), trying)).made
        : null,
    [document, form?.ledger, form?.steps, trying],
  );
  const { toleranceMm } = document ? adviseBrief(document.brief).wanted : { toleranceMm: 0 };
  // A limit is no target: where fewer look the same, that is said first.
  const same = useMemo(() => {
    if (!document || !form || !recipes) return null;
    const now = new Map(form.ledger.parts.map((p) => [p.id, p.triangles * p.copies]));
    return tried(() => sameLook(document, toleranceMm, measuredFrom(document, form.ledger.parts, form.steps), now)).made;
  }, [document, form, recipes, toleranceMm]);
  const worstNow = useMemo(() => (document && curve ? presentWorst(document, curve) : 0), [document, curve]);
  const { length, say } = useLengths();
  if (!document || !form || form.ledger.triangles === 0) return null;
  const limit = document.brief.limits.triangles;
  const px = pixelMm(document.brief);
  const tolerance = toleranceMm;
  const over = form.ledger.triangles > limit;
  const tooMany = `${figure(form.ledger.triangles - limit, 0)} triangles over the limit.`;
  const imports = document.parts.filter((p) => p.shape.kind === 'mesh' && !p.aid);
  const locked = Object.keys(document.form.locks).length;
  const ties = document.form.ties?.length ?? 0;
  const solved = recipes && Object.keys(document.form.counts).length > 0 && curve && curve.triangles === form.ledger.triangles;
  const part = document.parts.find((p) => p.id === same?.most.part);
  return (
    <>
      {same && part && !budget && !over && (
        <AdviceCard
          level="near"
          title={`${figure(same.triangles, 0)} look the same as ${figure(form.ledger.triangles, 0)}.`}
          accept={{
            words: `Take ${figure(same.triangles, 0)}`,
            run: () => session.dispatch({ type: 'form.counts', counts: same.counts, triangles: same.triangles }),
            disabled: busy,
          }}
        >
          Nothing is then more than {figure(same.worstMm / px, 2)} px off at the closest view, and the brief lets{' '}
          {figure(tolerance / px, 2)} px show. Most is saved in {part.name}: {figure(same.most.now, 0)} become {figure(same.most.later, 0)},
          for {figure(same.most.errorMm / px, 2)} px.
        </AdviceCard>
      )}
      {budget ? (
        budget.fits ? (
          <AdviceCard
            title={`${figure(budget.triangles, 0)} triangles are enough.`}
            accept={{ words: 'Use these counts', run: () => acceptBudget(session) }}
            decline={{ words: `Keep ${figure(form.ledger.triangles, 0)}`, run: () => dropBudget(session) }}
          >
            No count is then more than {length(budget.worstMm, 3)} ({figure(budget.worstMm / px, 2)} px) off, the worst being{' '}
            {say(budget.worstLabel)}; where two meet on one surface its outline is at most {figure(budget.outlineMm / px, 2)} px off. A
            tenth more triangles would bring the worst to {length(budget.tenthMoreMm, 3)}.
          </AdviceCard>
        ) : (
          <AdviceCard
            level="over"
            title={`${figure(limit, 0)} triangles can’t be kept.`}
            decline={{ words: 'Close', run: () => dropBudget(session) }}
          >
            Even with the fewest sides the piece takes {figure(budget.triangles, 0)}. Raise the limit in the brief, unlock a count, or take
            a part away.
          </AdviceCard>
        )
      ) : recipes ? (
        <AdviceCard
          level={over ? 'over' : 'ok'}
          title={
            over
              ? tooMany
              : solved
                ? 'The limit is spent where it shows.'
                : `${figure(limit - form.ledger.triangles, 0)} triangles to spare.`
          }
          accept={{
            words: solved ? 'Solve again' : `Solve for ${figure(limit, 0)}`,
            run: () => void solve(session),
            disabled: busy,
            quiet: solved === true,
          }}
        >
          {solved
            ? `The largest error is ${length(curve.worstMm, 3)}, ${figure(curve.worstMm / px, 2)} px at the closest view: ${say(curve.worstLabel)}.`
            : `The solver sets every count so that the largest visible error is the same everywhere and the total fits. The brief allows ${length(tolerance, 3)}.`}
        </AdviceCard>
      ) : (
        <AdviceCard
          level={over ? 'over' : 'ok'}
          title={over ? tooMany : 'Within the limit.'}
          {...(over &&
            imports.length > 0 && {
              accept: { words: `Simplify to ${figure(limit, 0)}`, run: () => void simplifyTo(session, limit, tooMany), disabled: busy },
            })}
        >
          {figure(form.ledger.triangles, 0)} of {figure(limit, 0)} triangles.{' '}
          {over
            ? 'Simplifying takes them away where they matter least, to one error over all parts, and measures it. A region named in a part’s own simplify step is left as it is.'
            : 'An imported mesh is taken as it is.'}
        </AdviceCard>
      )}
      {why && (
        <Box role="alert" sx={{ fontSize: 12.5, color: 'error.main', lineHeight: 1.4, mt: 0.6 }}>
          {why}
        </Box>
      )}
      {recipes && !budget && (
        <>
          <SliderField
            label="What if the limit were"
            unit=""
            digits={0}
            min={Math.max(4, Math.round(Math.min(limit, form.ledger.triangles) * 0.25))}
            max={Math.round(Math.max(limit, form.ledger.triangles) * 2)}
            step={1}
            value={limit}
            onDrag={setTrying}
            onCommit={(n) => {
              setTrying(null);
              if (n !== limit) void solve(session, Math.round(n));
            }}
          />
          {guess && (
            <Box role="status" sx={{ fontSize: 12, color: 'text.secondary', lineHeight: 1.4 }}>
              {guess.fits
                ? `About ${figure(guess.triangles, 0)} triangles, the worst ${figure(guess.worstMm / px, 2)} px off: ${say(guess.worstLabel)}. Formed and measured when you let go.`
                : `Too few: the fewest sides take about ${figure(guess.triangles, 0)}.`}
            </Box>
          )}
          {(locked > 0 || ties > 0) && (
            <Box sx={{ fontSize: 12, color: 'text.secondary' }}>
              {[
                locked > 0 && `${locked} ${locked === 1 ? 'count is' : 'counts are'} fixed`,
                ties > 0 && `${ties} ${ties === 1 ? 'group is' : 'groups are'} tied`,
              ]
                .filter(Boolean)
                .join(' · ')}
            </Box>
          )}
        </>
      )}
      {curve && (
        <>
          <Heading aside="px, closest view">Triangles against error</Heading>
          <Chart
            kind="line"
            label={`Triangles against visible error; now ${form.ledger.triangles} triangles`}
            series={[
              {
                name: 'worst error',
                data: curve.curve
                  .filter((p) => p.errorMm / px < 12)
                  .map((p) => ({ x: p.triangles, y: Math.round((1000 * p.errorMm) / px) / 1000 })),
              },
            ]}
            options={{
              stroke: { width: 1.8, curve: 'straight' },
              xaxis: {
                type: 'numeric',
                tickAmount: 3,
                max: Math.max(limit * 1.6, form.ledger.triangles * 1.1),
                labels: { formatter: (v) => `${figure(Number(v) / 1000, 1)} k` },
              },
              yaxis: { min: 0, tickAmount: 3, labels: { formatter: (v) => figure(v, 1) } },
              annotations: {
                xaxis: [
                  {
                    x: limit,
                    borderColor: '#B23440',
                    strokeDashArray: 3,
                    label: {
                      text: 'limit',
                      orientation: 'horizontal',
                      borderWidth: 0,
                      offsetY: -2,
                      style: { background: 'transparent', color: '#B23440', fontSize: '11px' },
                    },
                  },
                  ...(same
                    ? [
                        {
                          x: same.triangles,
                          borderColor: '#0C706F',
                          strokeDashArray: 3,
                          label: {
                            text: 'looks the same',
                            orientation: 'horizontal' as const,
                            borderWidth: 0,
                            offsetY: 12,
                            style: { background: 'transparent', color: '#0C706F', fontSize: '11px' },
                          },
                        },
                      ]
                    : []),
                ],
                points: [
                  {
                    x: form.ledger.triangles,
                    y: worstNow / px,
                    marker: { size: 4.5, fillColor: '#0C706F', strokeColor: '#0C706F' },
                  },
                  // What a tenth more would buy.
                  {
                    x: Math.floor(limit * 1.1),
                    y: curve.tenthMoreMm / px,
                    marker: { size: 3.5, fillColor: 'transparent', strokeColor: '#0C706F' },
                  },
                ],
              },
            }}
          />
          <Box sx={{ fontSize: 12, color: 'text.secondary', lineHeight: 1.4 }}>
            Full dot: now. Open dot: {figure(Math.floor(limit * 1.1), 0)} triangles, {figure(curve.tenthMoreMm / px, 2)} px.
          </Box>
        </>
      )}
      <PartLedger document={document} form={form} />
      <IdleTriangles findings={findings} />
      <Levels document={document} />
      <MemoryTable document={document} />
    </>
  );
}

/** The worst error of the counts in force, mm. */
function presentWorst(document: AssetDocument, curve: Budget): number {
  try {
    const count = chosenCount(document);
    return Math.max(0, ...budgetProblem(document).adaptive.map((a) => a.errorMm(allowedCount(a, count(a)))));
  } catch {
    // A step that can't be planned says so itself.
    return curve.worstMm;
  }
}

/** What work came to, or the sentence why it can't be done. */
function tried<T>(work: () => T): { made: T | null; why: string | null } {
  try {
    return { made: work(), why: null };
  } catch (error) {
    return { made: null, why: sentence(error) };
  }
}
