'use client';

import Box from '@mui/material/Box';
import type { View } from '@wellmorph/core/inspect/views';
import { figure } from '@wellmorph/core/units/lengths';
import type { Ref } from 'react';
import { useLengths } from '@/session/context';
import { gradientOf } from '@/shared/ramp';

/** How much of the surface has how much, over the scale it belongs to. */
function Bars({ bins }: { bins: readonly number[] }) {
  const most = Math.max(...bins, 1e-9);
  return (
    <Box
      role="img"
      aria-label={`Of the surface ${figure(100 * Math.max(...bins), 0)} % lie in the fullest of ${bins.length} steps of the scale.`}
      sx={{ display: 'flex', alignItems: 'flex-end', gap: '1px', height: 28, mb: 0.4 }}
    >
      {bins.map((share, i) => (
        <Box
          key={i}
          // What is there at all is seen.
          sx={{ flex: 1, height: share > 0 ? `max(1px, ${(100 * share) / most}%)` : 0, bgcolor: 'sheet.muted' }}
        />
      ))}
    </Box>
  );
}

/** What a view shows, in a sentence, with its scale and the value under the pointer. */
export function Scale({ view, probe }: { view: View; probe: Ref<HTMLSpanElement> }) {
  const { length } = useLengths();
  const gradient = gradientOf(view);
  const end = (x: number) => {
    const digits = Math.abs(x) < 0.1 ? 3 : 2;
    return view.unit === 'mm' ? length(x, digits) : `${figure(x, digits)} ${view.unit}`;
  };
  return (
    <Box
      role="note"
      aria-label="what the view shows"
      sx={{
        position: 'absolute',
        left: 16,
        bottom: 44,
        maxWidth: 'min(380px, calc(100% - 32px))',
        p: 1,
        bgcolor: 'background.paper',
        border: 1,
        borderColor: 'divider',
        borderRadius: 1,
        fontSize: 12,
        lineHeight: 1.4,
      }}
    >
      {view.bins && <Bars bins={view.bins} />}
      {gradient && (
        <Box sx={{ display: 'grid', gridTemplateColumns: 'auto 1fr auto', gap: 0.8, alignItems: 'center', mb: 0.5 }} className="mono">
          <span>{end(view.low)}</span>
          <Box sx={{ height: 9, minWidth: 120, borderRadius: 0.5, background: gradient }} />
          <span>{end(view.high)}</span>
        </Box>
      )}
      <Box className="narrow" sx={{ color: 'text.secondary' }}>
        {view.words} <Box component="span" ref={probe} className="mono" sx={{ color: 'text.primary' }} />
      </Box>
    </Box>
  );
}
