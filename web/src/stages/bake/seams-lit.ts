'use client';

import type { SeamsLit } from '@wellmorph/core/pipeline/seams-lit';
import { useEffect, useState } from 'react';
import { useSession, useSheet } from '@/session/context';

/** How the seams of the bake in view show under the shot’s lamps as they are now. Null until that is known. */
export function useSeamsLit(): SeamsLit | null {
  const session = useSession();
  const laid = useSheet((s) => s.unwrap?.parts);
  const seams = useSheet((s) => s.bake?.figures.judgement?.seams);
  const rig = useSheet((s) => s.document?.rig);
  const shot = useSheet((s) => s.document?.shot);
  const [lit, setLit] = useState<{ of: readonly unknown[]; lit: SeamsLit } | null>(null);
  const of = [laid, seams, rig, shot];
  useEffect(() => {
    const document = session.document;
    if (!document || !laid || !seams?.length) return;
    let gone = false;
    session.bench.pool
      .run('seamsLit', { document, laid, seams })
      .then((found) => !gone && setLit({ of: [laid, seams, rig, shot], lit: found }))
      // Without anything to light there is nothing to be said.
      .catch(() => {});
    return () => {
      gone = true;
    };
  }, [session, laid, seams, rig, shot]);
  return lit?.of.every((x, i) => x === of[i]) ? lit.lit : null;
}
