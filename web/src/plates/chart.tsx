'use client';

import Box from '@mui/material/Box';
import { useColorScheme } from '@mui/material/styles';
import type { ApexOptions } from 'apexcharts';
import { memo, startTransition, useEffect, useRef, useState } from 'react';
import { inBrowser } from '@/theme/in-browser';
import { useNonce } from '@/theme/nonce';
import { MONO, NIGHT, PAPER } from '@/theme/theme';
import { afterFirstLook } from './first-look';

const Apex = inBrowser(typeof window === 'undefined' ? null : () => import('react-apexcharts').then((m) => m.default), () => (
  <Box sx={{ height: 130 }} />
));

/** Fetches the charts' code before the first one is wanted: reading it in takes as long as drawing one. */
export const warmCharts = (): (() => void) => afterFirstLook(() => void Apex.warm().catch(() => {}));

interface ChartProps {
  kind: 'line' | 'bar';
  series: ApexOptions['series'];
  options: ApexOptions;
  height?: number;
  label: string;
  /** A point was pressed: which of the series, and which of its points. */
  onPoint?(series: number, index: number): void;
}

/** Ink on paper: no toolbar, no shadows, hairline axes. */
export const Chart = memo(function Chart({ kind, series, options, height = 150, label, onPoint }: ChartProps) {
  const { mode } = useColorScheme();
  const nonce = useNonce();
  const c = mode === 'dark' ? NIGHT : PAPER;
  const axis = { style: { colors: c.muted, fontFamily: MONO, fontSize: '10.5px' } };
  const box = useRef<HTMLDivElement>(null);
  // The chart is drawn again only when what it shows changes: it has to call the handler of now.
  const press = useRef(onPoint);
  press.current = onPoint;
  // Drawn in a moment of its own, once the piece lies on the paper.
  const [drawn, setDrawn] = useState(false);
  useEffect(() => {
    let end = () => {};
    const later = setTimeout(() => {
      end = afterFirstLook(() => startTransition(() => setDrawn(true)));
    }, 60);
    return () => {
      clearTimeout(later);
      end();
    };
  }, []);
  useEffect(() => {
    box.current?.querySelector('svg')?.setAttribute('aria-hidden', 'true');
  });
  const merged: ApexOptions = {
    ...options,
    chart: {
      toolbar: { show: false },
      zoom: { enabled: false },
      animations: { enabled: false },
      background: 'transparent',
      parentHeightOffset: 0,
      ...(nonce && { nonce }),
      ...(onPoint && { events: { markerClick: (_e, _chart, at) => press.current?.(at?.seriesIndex ?? 0, at?.dataPointIndex ?? -1) } }),
      ...options.chart,
    },
    theme: { mode: mode === 'dark' ? 'dark' : 'light' },
    colors: options.colors ?? [c.ink],
    grid: { borderColor: c.faint, padding: { left: 6, right: 22, top: -14, bottom: 0 }, ...options.grid },
    dataLabels: { enabled: false },
    legend: { show: false },
    xaxis: {
      ...options.xaxis,
      labels: { ...axis, rotate: 0, ...options.xaxis?.labels },
      axisBorder: { color: c.line },
      axisTicks: { color: c.line },
      tooltip: { enabled: false },
    },
    yaxis: Array.isArray(options.yaxis) ? options.yaxis : { ...options.yaxis, labels: { ...axis, ...options.yaxis?.labels } },
    tooltip: { theme: mode === 'dark' ? 'dark' : 'light', ...options.tooltip },
  };
  return (
    <Box ref={box} role="img" aria-label={label}>
      {drawn ? <Apex type={kind} height={height} width="100%" series={series} options={merged} /> : <Box sx={{ height }} />}
    </Box>
  );
}, sameChart);

/** Drawing a chart takes a hundred milliseconds: it is done again only when what it shows has changed. */
function sameChart(a: ChartProps, b: ChartProps): boolean {
  return (
    (a.onPoint === undefined) === (b.onPoint === undefined) &&
    JSON.stringify([a.kind, a.series, a.options, a.height, a.label]) === JSON.stringify([b.kind, b.series, b.options, b.height, b.label])
  );
}
