'use client';

import type { Status } from '@wellmorph/core/pipeline/status';
import { usePalette } from '@/theme/theme';

const WORDS: Record<Status, string> = {
  ok: 'in order',
  near: 'near a limit',
  over: 'over a limit or wrong',
  none: 'not made yet',
  stale: 'made from an older state',
};
export const statusWords = (s: Status): string => WORDS[s];

/** Status by shape first: open ring, half-filled ring, filled diamond, dash, ring with a gap. */
export function StatusMark({ status, size = 16 }: { status: Status; size?: number }) {
  const c = usePalette().sheet;
  const ring = { fill: 'none', strokeWidth: 1.9 };
  return (
    <svg width={size} height={size} viewBox="0 0 16 16" role="img" aria-label={WORDS[status]} style={{ display: 'block', flex: 'none' }}>
      {status === 'ok' && <circle cx="8" cy="8" r="5.6" stroke={c.ok} {...ring} />}
      {status === 'near' && (
        <>
          <circle cx="8" cy="8" r="5.6" stroke={c.near} {...ring} />
          <path d="M8 2.4a5.6 5.6 0 0 1 0 11.2z" fill={c.near} />
        </>
      )}
      {status === 'over' && <path d="M8 1.2 14.8 8 8 14.8 1.2 8z" fill={c.over} />}
      {status === 'none' && <path d="M4 8h8" stroke={c.muted} strokeWidth="2" />}
      {status === 'stale' && <path d="M11.96 4.04a5.6 5.6 0 1 0 0 7.92" stroke={c.info} strokeLinecap="round" {...ring} />}
    </svg>
  );
}

export function InfoMark({ size = 16 }: { size?: number }) {
  const c = usePalette().sheet;
  return (
    <svg width={size} height={size} viewBox="0 0 16 16" role="img" aria-label="information" style={{ display: 'block', flex: 'none' }}>
      <circle cx="8" cy="8" r="5.4" stroke={c.info} strokeWidth="1.9" fill="none" />
    </svg>
  );
}

export function Wordmark() {
  const c = usePalette();
  return (
    <svg width="26" height="26" viewBox="0 0 32 32" role="img" aria-label="Wellmorph">
      <path
        d="M5 6c3 10 5 18 7 18s3-11 4-11 2 11 4 11 4-8 7-18"
        fill="none"
        stroke={c.text.primary}
        strokeWidth="2.3"
        strokeLinecap="round"
      />
      <path d="M9 9c2 6 5 9 7 3 2 6 5 3 7-3" fill="none" stroke={c.primary.main} strokeWidth="1.9" strokeLinecap="round" />
    </svg>
  );
}
