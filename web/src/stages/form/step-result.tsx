'use client';

import Box from '@mui/material/Box';
import Slider from '@mui/material/Slider';
import { valuesOf } from '@wellmorph/core/form/fields';
import type { Step } from '@wellmorph/core/form/steps/index';
import { figure } from '@wellmorph/core/units/lengths';
import { useEffect, useState } from 'react';
import { useLengths, useSheet } from '@/session/context';

/** What a step came to when it was last formed: figures it measured, and what it did otherwise than asked. */
export function StepResult({ step }: { step: string }) {
  // A step of the high mesh alone has come to something only there.
  const found = useSheet((s) => (s.form?.steps ?? []).find((r) => r.step === step) ?? s.high?.steps.find((r) => r.step === step));
  const { bare, say, unit } = useLengths();
  if (!found || (found.figures.length === 0 && found.notes.length === 0)) return null;
  return (
    <Box sx={{ my: 0.6 }} data-step-result={step}>
      {found.notes.map((n) => (
        <Box key={n.code} role="status" sx={{ fontSize: 12.5, color: 'warning.main', lineHeight: 1.35, mb: 0.4 }}>
          {say(n.message)}
        </Box>
      ))}
      {found.figures.map((f) => (
        <Box key={f.label} sx={{ display: 'flex', justifyContent: 'space-between', gap: 1, fontSize: 12.5, lineHeight: 1.5 }}>
          <Box component="span" className="narrow" sx={{ color: 'text.secondary' }}>
            {f.label}
          </Box>
          <Box component="span" className="mono">
            {[f.value, f.to]
              .filter((x) => x !== undefined)
              .map((x) => (f.unit === 'mm' ? bare(x) : figure(x, 2)))
              .join(' – ')}{' '}
            {f.unit === 'mm' ? unit : f.unit}
          </Box>
        </Box>
      ))}
    </Box>
  );
}

/** What a size may be dragged through, by kind: its field, and the figure that says how far it goes. */
const DRAGGED: Partial<Record<Step['kind'], { key: string; most: string }>> = {
  bevel: { key: 'size', most: 'largest that fits' },
  shell: { key: 'thickness', most: 'thickest that fits' },
  inset: { key: 'inset', most: 'most it can move in' },
};

/** A size dragged between nothing and the most that fits, which is shown while it moves. */
export function SizeDrag({ step, onSet }: { step: Step; onSet(path: string, value: number): void }) {
  const dragged = DRAGGED[step.kind];
  const most = useSheet((s) => s.form?.steps?.find((r) => r.step === step.id)?.figures.find((f) => f.label === dragged?.most)?.value);
  const value = dragged ? Number(valuesOf(step)[dragged.key]) : 0;
  const [drag, setDrag] = useState<number | null>(null);
  const { length } = useLengths();
  useEffect(() => setDrag(null), [value]);
  if (!dragged || most === undefined || !(most > 0)) return null;
  const now = drag ?? value;
  return (
    <Box sx={{ px: 0.5 }}>
      <Slider
        size="small"
        aria-label={`Drag ${dragged.key}`}
        min={0.01}
        max={most}
        step={most / 200}
        value={Math.min(now, most)}
        onChange={(_, v) => setDrag(v as number)}
        onChangeCommitted={(_, v) => onSet(dragged.key, Math.round((v as number) * 100) / 100)}
        sx={{ py: '7px', '& .MuiSlider-thumb': { width: 12, height: 12 }, '& .MuiSlider-rail': { bgcolor: 'divider', opacity: 1 } }}
      />
      <Box
        className="narrow"
        sx={{ display: 'flex', justifyContent: 'space-between', fontSize: 11.5, color: now > most ? 'warning.main' : 'text.secondary' }}
      >
        <span>{drag === null ? 'drag' : length(drag)}</span>
        <span>
          {now > most ? 'over ' : ''}the most that fits, {length(most)}
        </span>
      </Box>
    </Box>
  );
}
