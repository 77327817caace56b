'use client';

import Box from '@mui/material/Box';
import { useColorScheme } from '@mui/material/styles';
import type { ApexOptions } from 'apexcharts';
import dynamic from 'next/dynamic';
import { useEffect, useRef } from 'react';
import { MONO, NIGHT, PAPER } from '@/theme/theme';

const Apex = dynamic(() => import('react-apexcharts'), { ssr: false, loading: () => <Box sx={{ height: 130 }} /> });

/** Ink on paper: no toolbar, no shadows, hairline axes. */
export function Chart({
  kind,
  series,
  options,
  height = 150,
  label,
}: {
  kind: 'line' | 'bar';
  series: ApexOptions['series'];
  options: ApexOptions;
  height?: number;
  label: string;
}) {
  const { mode } = useColorScheme();
  const c = mode === 'dark' ? NIGHT : PAPER;
  const axis = { style: { colors: c.muted, fontFamily: MONO, fontSize: '10.5px' } };
  const box = useRef<HTMLDivElement>(null);
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
      ...options.chart,
    },
    theme: { mode: mode === 'dark' ? 'dark' : 'light' },
    colors: options.colors ?? [c.ink],
    grid: { borderColor: c.faint, padding: { left: 6, right: 14, top: -14, bottom: 0 }, ...options.grid },
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
      <Apex type={kind} height={height} width="100%" series={series} options={merged} />
    </Box>
  );
}
