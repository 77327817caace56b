'use client';

import ColorizeOutlined from '@mui/icons-material/ColorizeOutlined';
import Box from '@mui/material/Box';
import IconButton from '@mui/material/IconButton';
import Slider from '@mui/material/Slider';
import { useEffect, useState } from 'react';
import { useSheet } from '@/session/context';
import { NumberField } from './fields';
import { PickColour } from './pick-colour';
import { leaveOnEnter, Written } from './plain';

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

/** A colour, typed as six hexadecimal digits, chosen on the browser's own picker, or taken from a picture behind the piece. sRGB, 0 … 1. */
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
  const pictures = useSheet((s) => s.document?.references.length ?? 0);
  const [picking, setPicking] = useState(false);
  const [shown, setShown] = useState(hex);
  useEffect(() => setShown(hex), [hex]);
  const typed = /^#?([0-9a-f]{6})$/i.exec(shown.trim())?.[1].toLowerCase();
  const commit = () => {
    if (!typed) return setShown(hex);
    if (`#${typed}` !== hex) onCommit([0, 2, 4].map((i) => Number.parseInt(typed.slice(i, i + 2), 16) / 255) as [number, number, number]);
  };
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', justifyContent: 'space-between', minHeight: 30, gap: 1, fontSize: 13 }}>
      <span className="narrow">{label}</span>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.8 }}>
        <Written
          disabled={disabled}
          wrong={!typed}
          value={shown}
          inputProps={{ 'aria-label': `${label}, hexadecimal`, className: 'mono', maxLength: 7 }}
          onChange={(e) => setShown(e.target.value)}
          onBlur={commit}
          onKeyDown={leaveOnEnter}
          sx={{ width: 82, fontSize: 12 }}
        />
        <Written
          type="color"
          disabled={disabled}
          value={typed ? `#${typed}` : hex}
          inputProps={{ 'aria-label': label }}
          onChange={(e) => setShown(e.target.value)}
          onBlur={commit}
          sx={{ width: 36, p: 0, '& input': { height: 22, cursor: 'pointer' } }}
        />
        {pictures > 0 && (
          <IconButton
            size="small"
            disabled={disabled}
            aria-label={`${label}, from a picture`}
            title="Take it from a picture behind the piece"
            onClick={() => setPicking(true)}
          >
            <ColorizeOutlined sx={{ fontSize: 15 }} />
          </IconButton>
        )}
        {picking && <PickColour label={label} onPick={onCommit} onClose={() => setPicking(false)} />}
      </Box>
    </Box>
  );
}
