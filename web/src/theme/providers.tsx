'use client';

import CssBaseline from '@mui/material/CssBaseline';
import { ThemeProvider } from '@mui/material/styles';
import type { ReactNode } from 'react';
import { inBrowser } from '@/theme/in-browser';
import { NonceProvider } from './nonce';
import { Opening } from './opening';
import { theme } from './theme';

/** Everything under it is drawn in the browser alone: nothing is there to be pressed before it can answer. */
const Bench = inBrowser(typeof window === 'undefined' ? null : () => import('./bench').then((m) => m.default), Opening);

export function Providers({ nonce, children }: { nonce?: string; children: ReactNode }) {
  return (
    <ThemeProvider theme={theme} defaultMode="light">
      <CssBaseline />
      <NonceProvider value={nonce}>
        <Bench>{children}</Bench>
      </NonceProvider>
    </ThemeProvider>
  );
}
