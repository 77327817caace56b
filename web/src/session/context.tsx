'use client';

import { QueryClientProvider } from '@tanstack/react-query';
import { decimalsIn, figure, inUnit, type LengthUnit, MM_PER, sentenceIn } from '@wellmorph/core/units/lengths';
import { createContext, type ReactNode, useContext, useEffect, useMemo, useState } from 'react';
import { type StoreApi, useStore } from 'zustand';
import { createStore } from 'zustand/vanilla';
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
/** The unit lengths are shown in here: the one its brief chooses, mm where no asset is open. */
export function useLengthUnit(): LengthUnit {
  const session = useContext(SessionContext);
  return useStore(
    (session?.store ?? NONE) as StoreApi<Pick<SheetState, 'document'>>,
    (s: Pick<SheetState, 'document'>) => s.document?.brief.unit ?? 'mm',
  );
}
/** How lengths, and sentences that hold some, are said here. */
export interface Lengths {
  unit: LengthUnit;
  /** One or more lengths, mm: `11.2 × 26.7 cm`, as exact as `digits` decimals of a millimetre. */
  length(mm: number | readonly number[], digits?: number): string;
  /** The figure alone, for where the unit stands apart. */
  bare(mm: number, digits?: number): string;
  say(sentence: string): string;
}
export function useLengths(): Lengths {
  const unit = useLengthUnit();
  return useMemo(
    () => ({
      unit,
      length: (mm, digits) => inUnit(mm, unit, digits),
      bare: (mm, digits = 2) => figure(mm / MM_PER[unit], decimalsIn(unit, digits)),
      say: (sentence) => sentenceIn(sentence, unit),
    }),
    [unit],
  );
}
const NONE = createStore<Pick<SheetState, 'document'>>(() => ({ document: null }));

/** What that asset’s sheet shows. */
export const useSheet = <T,>(select: (s: SheetState) => T): T => useStore(useSession().store, select);
export const useDispatch = (): AssetSession['dispatch'] => useSession().dispatch;
