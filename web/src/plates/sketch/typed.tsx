'use client';

import Box from '@mui/material/Box';
import { useLengths } from '@/session/context';
import { Written } from '@/sheet/plain';

/** A length that is typed while something is drawn: Enter takes it, Esc or a click elsewhere lets it go. */
export function TypedLength({
  label,
  value,
  onType,
  onDone,
  onLeave,
}: {
  label: string;
  value: string;
  onType(text: string | null): void;
  onDone(): void;
  onLeave(): void;
}) {
  const { unit } = useLengths();
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.6, bgcolor: 'background.paper', px: 0.6 }}>
      <Written
        autoFocus
        value={value}
        inputProps={{ 'aria-label': label, size: 8 }}
        onChange={(e) => onType(e.target.value)}
        onBlur={() => onType(null)}
        onKeyDown={(e) => {
          if (e.key === 'Enter') onDone();
          else if (e.key === 'Escape') {
            onType(null);
            onLeave();
          } else return e.stopPropagation();
          e.preventDefault();
          e.stopPropagation();
        }}
      />
      {unit}
    </Box>
  );
}
