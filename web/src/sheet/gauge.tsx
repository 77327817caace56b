'use client';

import Box from '@mui/material/Box';
import { gaugeStatus, type Status } from '@wellmorph/core/pipeline/status';
import { StatusMark } from './marks';

const COLOUR: Record<Status, string> = {
  ok: 'text.primary',
  near: 'warning.main',
  over: 'error.main',
  none: 'divider',
  stale: 'info.main',
};

/** A bar against a limit: the tick stands at the limit, the bar may run past it. */
export function Bar({ value, limit, status, height = 5 }: { value: number | null; limit: number; status: Status; height?: number }) {
  const scale = Math.max(limit * 1.12, value ?? 0);
  const share = (x: number) => `${Math.min(100, (100 * x) / scale)}%`;
  return (
    <Box sx={{ position: 'relative', height: height + 5, display: 'flex', alignItems: 'center' }} aria-hidden>
      <Box sx={{ position: 'absolute', left: 0, right: 0, height, bgcolor: 'sheet.faint' }} />
      {value !== null && <Box sx={{ position: 'absolute', left: 0, width: share(value), height, bgcolor: COLOUR[status] }} />}
      <Box sx={{ position: 'absolute', left: share(limit), width: '1.5px', height: height + 5, bgcolor: 'text.primary' }} />
    </Box>
  );
}

export function Gauge({
  label,
  value,
  words,
  limit,
  aside,
  higherIsBetter = false,
}: {
  label: string;
  value: number | null;
  words: [figure: string, rest: string];
  limit: number;
  aside?: string;
  higherIsBetter?: boolean;
}) {
  const status: Status =
    value === null
      ? 'none'
      : higherIsBetter
        ? value >= limit * 0.98
          ? 'ok'
          : value >= limit * 0.6
            ? 'near'
            : 'over'
        : gaugeStatus(value, limit);
  return (
    <Box sx={{ width: 150 }} role="group" aria-label={`${label}: ${words.join(' ')}`}>
      <Box
        className="narrow"
        sx={{ display: 'flex', justifyContent: 'space-between', fontSize: 11.5, color: 'text.secondary', lineHeight: 1.3 }}
      >
        <span>{label}</span>
        <Box component="span" sx={{ display: 'flex', gap: 0.5, alignItems: 'center' }}>
          {aside}
          <StatusMark status={status} size={11} />
        </Box>
      </Box>
      <Box sx={{ fontSize: 13.5, lineHeight: 1.35, whiteSpace: 'nowrap' }}>
        <b>{words[0]}</b>{' '}
        <Box component="span" sx={{ color: 'text.secondary', fontSize: 12.5 }} className="narrow">
          {words[1]}
        </Box>
      </Box>
      <Bar value={value} limit={limit} status={status} />
    </Box>
  );
}
