'use client';

import { adviseBrief, pixelMm } from '@wellmorph/core/brief/advice';
import { measuredFrom, solveAsset } from '@wellmorph/core/pipeline/form';
import { figure } from '@wellmorph/core/units/lengths';
import { useMemo } from 'react';
import { Chart } from '@/plates/chart';
import { AdviceCard } from '@/sheet/advice';
import { Heading } from '@/sheet/fields';
import { useSheet } from '@/sheet/state';
import { acceptBudget, dropBudget, solve } from '@/stages/form/run';

/** Spends the triangle limit where the outline needs it, and shows what a triangle buys. */
export function BudgetPanel() {
  const document = useSheet((s) => s.document);
  const form = useSheet((s) => s.form);
  const budget = useSheet((s) => s.budget);
  const busy = useSheet((s) => s.job !== null);
  // Arithmetic on a few dozen counts: some 6 ms for the lantern, so it may stand here.
  const curve = useMemo(
    () =>
      document?.parts.some((p) => p.shape.kind === 'recipe' && p.shape.steps.length > 0)
        ? safely(() => solveAsset(document, measuredFrom(document, form?.ledger.parts ?? [], form?.steps ?? [])))
        : null,
    [document, form?.ledger, form?.steps],
  );
  if (!document || !form || form.ledger.triangles === 0) return null;
  const limit = document.brief.limits.triangles;
  const px = pixelMm(document.brief);
  const tolerance = adviseBrief(document.brief).wanted.toleranceMm;
  const recipes = curve !== null;
  const over = form.ledger.triangles > limit;
  const solved = recipes && Object.keys(document.form.counts).length > 0 && curve && curve.triangles === form.ledger.triangles;
  return (
    <>
      {budget ? (
        budget.fits ? (
          <AdviceCard
            title={`${figure(budget.triangles, 0)} triangles are enough.`}
            accept={{ words: 'Use these counts', run: acceptBudget }}
            decline={{ words: `Keep ${figure(form.ledger.triangles, 0)}`, run: dropBudget }}
          >
            No round edge is then more than {figure(budget.worstMm, 3)} mm ({figure(budget.worstMm / px, 2)} px) off, the worst being{' '}
            {budget.worstLabel}. A tenth more triangles would bring it to {figure(budget.tenthMoreMm, 3)} mm.
          </AdviceCard>
        ) : (
          <AdviceCard level="over" title={`${figure(limit, 0)} triangles can’t be kept.`} decline={{ words: 'Close', run: dropBudget }}>
            Even with the fewest sides the piece takes {figure(budget.triangles, 0)}. Raise the limit in the brief, unlock a count, or take
            a part away.
          </AdviceCard>
        )
      ) : recipes ? (
        <AdviceCard
          level={over ? 'over' : 'ok'}
          title={
            over
              ? `${figure(form.ledger.triangles - limit, 0)} triangles over the limit.`
              : solved
                ? 'The limit is spent where it shows.'
                : `${figure(limit - form.ledger.triangles, 0)} triangles to spare.`
          }
          accept={{
            words: solved ? 'Solve again' : `Solve for ${figure(limit, 0)}`,
            run: () => void solve(),
            disabled: busy,
            quiet: solved === true,
          }}
        >
          {solved
            ? `The largest error is ${figure(curve.worstMm, 3)} mm, ${figure(curve.worstMm / px, 2)} px at the closest view: ${curve.worstLabel}.`
            : `The solver sets every count so that the largest visible error is the same everywhere and the total fits. The brief allows ${figure(tolerance, 3)} mm.`}
        </AdviceCard>
      ) : (
        <AdviceCard level={over ? 'over' : 'ok'} title={over ? 'Over the limit.' : 'Within the limit.'}>
          {figure(form.ledger.triangles, 0)} of {figure(limit, 0)} triangles. An imported mesh is taken as it is.
        </AdviceCard>
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
                ],
                points: [
                  { x: form.ledger.triangles, y: curve.worstMm / px, marker: { size: 4.5, fillColor: '#0C706F', strokeColor: '#0C706F' } },
                ],
              },
            }}
          />
        </>
      )}
    </>
  );
}

function safely<T>(work: () => T): T | null {
  try {
    return work();
  } catch {
    return null;
  }
}
