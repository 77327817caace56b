'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import type { ReactNode } from 'react';
import { useSession } from '@/session/context';

/** A computed setting as a sentence, with one button that takes it. */
export function AdviceCard({
  title,
  children,
  accept,
  decline,
  level = 'ok',
}: {
  title: string;
  children: ReactNode;
  /** `quiet` for what can be done but need not be. */
  accept?: { words: string; run(): void; disabled?: boolean; quiet?: boolean };
  decline?: { words: string; run(): void };
  level?: 'ok' | 'near' | 'over';
}) {
  const session = useSession();
  return (
    <Box
      role="note"
      sx={{
        border: 1,
        borderLeft: 3,
        borderColor: 'divider',
        borderLeftColor: level === 'over' ? 'error.main' : level === 'near' ? 'warning.main' : 'primary.main',
        borderRadius: 1,
        px: 1.6,
        py: 1.2,
        bgcolor: 'background.paper',
        mb: 2,
      }}
    >
      <Box sx={{ fontSize: 13.5, lineHeight: 1.45 }}>
        <b>{title}</b> {children}
      </Box>
      {(accept || decline) && (
        <Box sx={{ display: 'flex', gap: 1, mt: 1 }}>
          {accept && (
            <Button
              variant={accept.quiet ? 'outlined' : 'contained'}
              disabled={accept.disabled}
              onClick={() => session.advised(title, accept.run)}
            >
              {accept.words}
            </Button>
          )}
          {decline && (
            <Button variant="outlined" onClick={decline.run}>
              {decline.words}
            </Button>
          )}
        </Box>
      )}
    </Box>
  );
}
