import { useEffect } from 'react';

/** Pieces that are on their way to the paper. What can wait until they lie there waits. */
let coming = 0;
const waiting = new Set<() => void>();
const arrivals = new Set<() => void>();
/** Within this a sheet shows its piece, or has none to show, ms. */
const SOON = 2500;

/** At the latest after this, ms: a piece that never comes holds nothing back. */
const LATEST = 5000;

/** @returns what says that it is there, or that it is not awaited any more */
export function pieceComes(): () => void {
  coming++;
  let told = false;
  return () => {
    if (told) return;
    told = true;
    coming--;
    if (coming === 0) for (const go of [...waiting]) go();
  };
}

/** A sheet is opened: its piece is on its way, if it has one that is seen from here. */
export function useSheetOpens(): void {
  useEffect(() => {
    const there = pieceComes();
    arrivals.add(there);
    const latest = setTimeout(there, SOON);
    return () => {
      clearTimeout(latest);
      arrivals.delete(there);
      there();
    };
  }, []);
}
/** The first piece of a sheet has come: from now on those say so that are on their way themselves. */
export function pieceArrived(): void {
  for (const there of arrivals) there();
}

/** While it is shown a piece is on its way. */
export function usePieceComing(is = true): void {
  useEffect(() => (is ? pieceComes() : undefined), [is]);
}

/**
 * Calls back once no piece is on its way and there is nothing else to do.
 *
 * @returns what takes that back
 */
export function afterFirstLook(then: () => void): () => void {
  let idle = 0;
  let latest: ReturnType<typeof setTimeout> | undefined;
  const go = () => {
    waiting.delete(go);
    clearTimeout(latest);
    // Not every browser says when it is idle.
    if ('requestIdleCallback' in globalThis) idle = requestIdleCallback(then, { timeout: 1000 });
    else latest = setTimeout(then, 50);
  };
  if (coming === 0) go();
  else {
    waiting.add(go);
    latest = setTimeout(go, LATEST);
  }
  return () => {
    waiting.delete(go);
    clearTimeout(latest);
    if (idle) cancelIdleCallback(idle);
  };
}
