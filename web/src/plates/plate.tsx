'use client';

import Box from '@mui/material/Box';
import type { ReactNode } from 'react';
import { inBrowser } from '@/theme/in-browser';
import { usePieceComing } from './first-look';

/** The 3-D view is only ever drawn in the browser. */
export const Piece = inBrowser(typeof window === 'undefined' ? null : () => import('./piece').then((m) => m.default), () => (
  <PlateWords coming>Laying the piece on the paper …</PlateWords>
));

/** A sentence in the middle of a plate: what is not there yet and what to do next. */
export function PlateWords({
  children,
  action,
  coming = false,
}: {
  children: ReactNode;
  action?: ReactNode /** A piece is on its way. */;
  coming?: boolean;
}) {
  usePieceComing(coming);
  return (
    <Box sx={{ position: 'absolute', inset: 0, display: 'grid', placeItems: 'center', p: 4 }}>
      <Box sx={{ maxWidth: 380, textAlign: 'center', color: 'text.secondary', fontSize: 14.5, lineHeight: 1.5 }}>
        {children}
        {action && <Box sx={{ mt: 2 }}>{action}</Box>}
      </Box>
    </Box>
  );
}

/** Switches that lie on a plate's upper edge. */
export function PlateTop({ children }: { children: ReactNode }) {
  return (
    <Box
      sx={{
        position: 'absolute',
        top: 12,
        left: 14,
        right: 14,
        display: 'flex',
        flexWrap: 'wrap',
        gap: 1,
        zIndex: 4,
        pointerEvents: 'none',
        '& > *': { pointerEvents: 'auto' },
      }}
    >
      {children}
    </Box>
  );
}

export function PlateFoot({ children }: { children: ReactNode }) {
  return (
    <Box
      className="narrow"
      sx={{
        position: 'absolute',
        bottom: 10,
        left: 16,
        right: 16,
        zIndex: 3,
        display: 'flex',
        justifyContent: 'space-between',
        color: 'text.secondary',
        fontSize: 12,
        pointerEvents: 'none',
      }}
    >
      {children}
    </Box>
  );
}

/** Two views of one thing side by side: what turns on the left, what lies flat on the right. */
export function TwoPlates({
  left,
  right,
  work = false,
}: {
  left: ReactNode;
  right: ReactNode /** The right one is worked on: it has most of the room. */;
  work?: boolean;
}) {
  return (
    <Box sx={{ position: 'absolute', inset: 0, display: 'grid', gridTemplateColumns: work ? '1fr 2fr' : '1fr 1fr' }}>
      <Box sx={{ position: 'relative', borderRight: 1, borderColor: 'divider' }}>{left}</Box>
      <Box sx={{ position: 'relative' }}>{right}</Box>
    </Box>
  );
}
