'use client';

import Box from '@mui/material/Box';
import Slider from '@mui/material/Slider';
import { useEffect, useState } from 'react';
import { NumberField } from './fields';

/** A figure that can be dragged or typed. While it is dragged only `onDrag` hears of it; the change is made when it is let go. */
export function SliderField({
  label,
  value,
  min,
  max,
  step,
  unit = '',
  digits = 2,
  hint,
  disabled,
  onDrag,
  onCommit,
}: {
  label: string;
  value: number;
  min: number;
  max: number;
  step: number;
  unit?: string;
  digits?: number;
  hint?: string;
  disabled?: boolean;
  onDrag?(value: number): void;
  onCommit(value: number): void;
}) {
  const [drag, setDrag] = useState<number | null>(null);
  // The drag ends when the stored value has followed it
  useEffect(() => setDrag(null), [value]);
  return (
    <Box sx={{ mb: 0.4 }}>
      <NumberField
        label={label}
        value={drag ?? value}
        kind="number"
        unit={unit}
        min={min}
        max={max}
        digits={digits}
        hint={hint}
        disabled={disabled}
        onCommit={onCommit}
      />
      <Slider
        aria-label={label}
        size="small"
        disabled={disabled}
        value={drag ?? value}
        min={min}
        max={max}
        step={step}
        onChange={(_, v) => {
          setDrag(v as number);
          onDrag?.(v as number);
        }}
        onChangeCommitted={(_, v) => onCommit(v as number)}
        sx={{ py: '7px', '& .MuiSlider-thumb': { width: 12, height: 12 }, '& .MuiSlider-rail': { bgcolor: 'divider', opacity: 1 } }}
      />
    </Box>
  );
}

/** A colour, chosen on the browser's own picker. sRGB, 0 … 1. */
export function ColourField({
  label,
  value,
  disabled,
  onCommit,
}: {
  label: string;
  value: readonly number[];
  disabled?: boolean;
  onCommit(value: [number, number, number]): void;
}) {
  const hex = `#${value
    .map((c) =>
      Math.round(c * 255)
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`;
  const [shown, setShown] = useState(hex);
  useEffect(() => setShown(hex), [hex]);
  const commit = () => {
    if (shown === hex) return;
    onCommit([1, 3, 5].map((i) => Number.parseInt(shown.slice(i, i + 2), 16) / 255) as [number, number, number]);
  };
  return (
    <Box component="label" sx={{ display: 'flex', alignItems: 'center', justifyContent: 'space-between', minHeight: 30, fontSize: 13 }}>
      <span className="narrow">{label}</span>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
        <Box component="span" className="mono" sx={{ fontSize: 12, color: 'text.secondary' }}>
          {shown}
        </Box>
        <Box
          component="input"
          type="color"
          disabled={disabled}
          value={shown}
          onChange={(e: React.ChangeEvent<HTMLInputElement>) => setShown(e.target.value)}
          onBlur={commit}
          sx={{ width: 34, height: 24, p: 0, border: 1, borderColor: 'divider', borderRadius: 1, bgcolor: 'transparent' }}
        />
      </Box>
    </Box>
  );
}
