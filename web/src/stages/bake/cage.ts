'use client';

import { nameOf } from '@wellmorph/core/pipeline/results';
import { useEffect, useState } from 'react';
import { useSession, useSheet } from '@/session/context';
import { isCancelled, sentence } from '@/session/session';
import { isFresh } from '@/session/state';
import type { GpuPart } from '@/workers/protocol';

const NONE = new Float32Array(0);
const NO_INDEX = new Uint32Array(0);

/** Where rays will begin with the settings as they are, as lines round each part; null while it is not wanted or not known yet. */
export function useCage(wanted: boolean): readonly GpuPart[] | null {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const form = useSheet((s) => s.form);
  const parts = isFresh(document, form, 'form') ? form?.parts : undefined;
  const name = wanted && document && parts ? nameOf(document, 'bake') : null;
  const [made, setMade] = useState<{ name: string; lines: GpuPart[] } | null>(null);
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
      const lines = cages.map(
        (c): GpuPart => ({
          id: c.id,
          name: c.id,
          placements: c.placements,
          index: NO_INDEX,
          position: NONE,
          normal: NONE,
          face: NO_INDEX,
          triangles: 0,
          edges: c.lines,
        }),
      );
      setMade({ name, lines });
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
