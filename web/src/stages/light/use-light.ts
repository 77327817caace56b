'use client';

import { hashOf } from '@wellmorph/core/hash';
import { useEffect, useState } from 'react';
import { sentence, useSheet } from '@/sheet/state';
import type { StageView } from '@/workers/protocol';
import { solveLight } from './run';

/** The light and the shot solved for the piece as it is, again whenever either changes. */
export function useLight(): { view: StageView | null; trouble: string | null } {
  const document = useSheet((s) => s.document);
  const form = useSheet((s) => s.form);
  const made = useSheet((s) => [s.layout?.hash, s.surface?.hash].join());
  const [view, setView] = useState<StageView | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const key =
    document && form ? hashOf([form.hash, made, document.rig, document.shot, document.parts.map((p) => [p.id, p.material])]) : null;
  useEffect(() => {
    if (!key) return;
    let gone = false;
    solveLight().then(
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
