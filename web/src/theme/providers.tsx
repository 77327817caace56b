'use client';

import CssBaseline from '@mui/material/CssBaseline';
import { ThemeProvider } from '@mui/material/styles';
import type { ReactNode } from 'react';
import { BenchProvider } from '@/session/context';
import { Workbench } from '@/session/workbench';
import { TASKS } from '@/stages/tasks';
import { NonceProvider } from './nonce';
import { theme } from './theme';

const bench = () => new Workbench(TASKS);

export function Providers({ nonce, children }: { nonce?: string; children: ReactNode }) {
  return (
    <ThemeProvider theme={theme} defaultMode="light">
      <CssBaseline />
      <NonceProvider value={nonce}>
        <BenchProvider make={bench}>{children}</BenchProvider>
      </NonceProvider>
    </ThemeProvider>
  );
}
