'use client';

import type { ReactNode } from 'react';
import { BenchProvider } from '@/session/context';
import { Workbench } from '@/session/workbench';
import { TASKS } from '@/stages/tasks';

const bench = () => new Workbench(TASKS);

/** The workbench of this page: what all sheets share. It lives in the browser alone. */
export default function Bench({ children }: { children: ReactNode }) {
  return <BenchProvider make={bench}>{children}</BenchProvider>;
}
