'use client';

import { useEffect, useState } from 'react';
import { useSession, useSheet } from '@/session/context';
import { sentence } from '@/session/session';
import type { StageView } from '@/workers/protocol';
import { lightOf, solveLight } from './run';

/** The light and the shot solved for the piece as it is, again whenever either changes. */
export function useLight(): { view: StageView | null; trouble: string | null } {
  const session = useSession();
  const [view, setView] = useState<StageView | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const key = useSheet(lightOf);
  useEffect(() => {
    if (!key) return;
    let gone = false;
    solveLight(session).then(
      (v) => {
        if (gone) return;
        setView(v);
        setTrouble(null);
      },
      (error) => {
        if (!gone) setTrouble(sentence(error));
      },
    );
    return () => {
      gone = true;
    };
  }, [key]);
  return { view, trouble };
}
