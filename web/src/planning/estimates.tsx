'use client';

import Box from '@mui/material/Box';
import { median } from '@wellmorph/core/maths/statistics';
import { figure } from '@wellmorph/core/units/lengths';
import { Chart } from '@/plates/chart';
import type { Plan } from '@/server/plan';
import { STATIONS } from '@/shared/stations';
import { PAPER } from '@/theme/theme';

/** Estimates against what it took: each as it would have been made from those finished before it. */
export function Estimates({ plan }: { plan: Plan }) {
  const list = plan.estimates;
  const most = Math.max(...list.flatMap((e) => [e.estimate, e.truth]));
  const ratio = median(list.map((e) => e.truth / e.estimate));
  const off = Math.round(100 * Math.abs(ratio - 1));
  const said = `${list.length} finished ${list.length === 1 ? 'stage' : 'stages'}: ${
    off < 5
      ? 'as long as was expected, in the middle'
      : `in the middle ${off} % ${ratio > 1 ? 'longer' : 'shorter'} than was expected of them`
  }; new estimates go by what they took.`;
  return (
    <Box
      component="section"
      aria-label="estimates"
      sx={{ bgcolor: 'background.paper', border: 1, borderColor: 'divider', p: 1.4, mt: 1.6, '@media print': { display: 'none' } }}
    >
      <Box component="h2" sx={{ m: 0, fontSize: 13.5, fontWeight: 660 }}>
        What it took against what was expected
      </Box>
      <Chart
        kind="line"
        height={200}
        label={said}
        series={[
          { name: 'took', type: 'scatter', data: list.map((e) => ({ x: Number(e.estimate.toFixed(1)), y: Number(e.truth.toFixed(1)) })) },
          {
            name: 'as expected',
            type: 'line',
            data: [
              { x: 0, y: 0 },
              { x: Math.ceil(most), y: Math.ceil(most) },
            ],
          },
        ]}
        options={{
          colors: [PAPER.accent, PAPER.muted],
          stroke: { width: [0, 1.2], curve: 'straight' },
          markers: { size: [5, 0], strokeWidth: 0 },
          xaxis: {
            type: 'numeric',
            title: { text: 'expected, min', style: { fontWeight: 400 } },
            labels: { formatter: (v) => figure(Number(v), 0) },
            tickAmount: 6,
          },
          yaxis: { title: { text: 'took, min', style: { fontWeight: 400 } }, labels: { formatter: (v) => figure(v, 0) } },
          tooltip: {
            shared: false,
            intersect: true,
            x: { show: false },
            y: {
              formatter: (_v, at) =>
                `${list[at?.dataPointIndex]?.name ?? ''}, ${STATIONS.find((s) => s.id === list[at?.dataPointIndex]?.stage)?.name ?? ''}`,
            },
          },
        }}
      />
      <Box sx={{ fontSize: 12.5, color: 'text.secondary' }}>{said}</Box>
    </Box>
  );
}
