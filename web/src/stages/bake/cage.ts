'use client';

import { nameOf } from '@wellmorph/core/pipeline/results';
import { useEffect, useState } from 'react';
import { useSession, useSheet } from '@/session/context';
import { isCancelled, sentence } from '@/session/session';
import { isFresh } from '@/session/state';
import type { GpuPart } from '@/workers/protocol';

/** Where rays begin and where they end, as lines round each part. */
export interface CageLines {
  outer: GpuPart[];
  inner: GpuPart[];
}

const NONE = new Float32Array(0);
const NO_INDEX = new Uint32Array(0);

/** How far rays will search with the settings as they are; null while it is not wanted or not known yet. */
export function useCage(wanted: boolean): CageLines | null {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const form = useSheet((s) => s.form);
  const parts = isFresh(document, form, 'form') ? form?.parts : undefined;
  const name = wanted && document && parts ? nameOf(document, 'bake') : null;
  const [made, setMade] = useState<{ name: string; lines: CageLines } | null>(null);
  useEffect(() => {
    if (!name || !parts) return;
    const cancel = new Int32Array(new SharedArrayBuffer(4));
    let gone = false;
    const ask = async () => {
      const about = session.document;
      if (!about) return;
      const meshes = await session.meshes(about, 'high');
      if (gone) return;
      const cages = await session.bench.pool.run('cage', { document: about, parts, meshes }, undefined, cancel);
      if (gone) return;
      const part = (which: 'outer' | 'inner') =>
        cages.map(
          (c): GpuPart => ({
            id: c.id,
            name: c.id,
            placements: c.placements,
            index: NO_INDEX,
            position: NONE,
            normal: NONE,
            face: NO_INDEX,
            triangles: 0,
            edges: c[which],
          }),
        );
      setMade({ name, lines: { outer: part('outer'), inner: part('inner') } });
    };
    ask().catch((error) => !gone && !isCancelled(error) && session.notify(sentence(error), 'error'));
    return () => {
      gone = true;
      Atomics.store(cancel, 0, 1);
    };
  }, [session, name, parts]);
  // The last one stays while a new one is measured.
  return wanted ? (made?.lines ?? null) : null;
}
