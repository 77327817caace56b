'use client';

import { QueryClientProvider } from '@tanstack/react-query';
import { createContext, type ReactNode, useContext, useEffect, useState } from 'react';
import { useStore } from 'zustand';
import type { AssetSession } from './session';
import type { SheetState } from './state';
import type { BenchState, Workbench } from './workbench';

const BenchContext = createContext<Workbench | null>(null);
const SessionContext = createContext<AssetSession | null>(null);

/** The page’s one workbench. */
export function BenchProvider({ make, children }: { make: () => Workbench; children: ReactNode }) {
  const [bench] = useState(make);
  useEffect(() => {
    bench.start();
    const warn = (e: BeforeUnloadEvent) => {
      if (bench.hasUnsent) e.preventDefault();
    };
    window.addEventListener('beforeunload', warn);
    return () => window.removeEventListener('beforeunload', warn);
  }, [bench]);
  return (
    <BenchContext value={bench}>
      <QueryClientProvider client={bench.queries}>{children}</QueryClientProvider>
    </BenchContext>
  );
}

export const SessionProvider = SessionContext;

export function useBench(): Workbench {
  const bench = useContext(BenchContext);
  if (!bench) throw new Error('There is no workbench round this.');
  return bench;
}
export const useBenchState = <T,>(select: (s: BenchState) => T): T => useStore(useBench().store, select);

/** The asset whose sheet this is part of. */
export function useSession(): AssetSession {
  const session = useContext(SessionContext);
  if (!session) throw new Error('There is no asset open round this.');
  return session;
}
/** What that asset’s sheet shows. */
export const useSheet = <T,>(select: (s: SheetState) => T): T => useStore(useSession().store, select);
export const useDispatch = (): AssetSession['dispatch'] => useSession().dispatch;
