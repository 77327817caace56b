'use client';

import type { MeasuredPair } from '@wellmorph/core/pipeline/pair-lies';
import { useEffect, useState } from 'react';
import { useSession, useSheet } from '@/session/context';
import { isCancelled, sentence } from '@/session/session';
import { isFresh } from '@/session/state';

/**
 * How parts and the high meshes brought for them lie to each other, measured as soon as the piece is formed: before a layout and before
 * any ray. Null until then, and where no high mesh was brought.
 */
export function usePairs(): readonly MeasuredPair[] | null {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const form = useSheet((s) => s.form);
  const parts = isFresh(document, form, 'form') ? form?.parts : undefined;
  const brought = document?.parts.map((p) => p.high?.blob ?? '').join('/') ?? '';
  const [measured, setMeasured] = useState<{ of: object; brought: string; pairs: MeasuredPair[] } | null>(null);
  useEffect(() => {
    const about = session.document;
    if (!parts || !about?.parts.some((p) => p.high)) return;
    const cancel = new Int32Array(new SharedArrayBuffer(4));
    let gone = false;
    const measure = async () => {
      const meshes = await session.meshes(about, 'high');
      if (gone) return;
      const pairs = await session.bench.pool.run('pairs', { document: about, parts, meshes }, undefined, cancel);
      if (!gone) setMeasured({ of: parts, brought, pairs });
    };
    measure().catch((error) => !gone && !isCancelled(error) && session.notify(sentence(error), 'error'));
    return () => {
      gone = true;
      Atomics.store(cancel, 0, 1);
    };
  }, [session, parts, brought]);
  return measured && measured.of === parts && measured.brought === brought ? measured.pairs : null;
}
