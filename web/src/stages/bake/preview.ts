'use client';

import type { BakeFigures, BakeFile } from '@wellmorph/core/pipeline/bake';
import { canBake } from '@wellmorph/core/pipeline/document';
import { nameOf } from '@wellmorph/core/pipeline/results';
import { useEffect, useState } from 'react';
import { useSession, useSheet } from '@/session/context';
import { isFresh } from '@/session/state';

/** A bake at preview size: pictures as addresses of this page, figures, and how long it took to answer. */
export interface BakePreview {
  name: string;
  files: Partial<Record<BakeFile, string>>;
  figures: BakeFigures;
  milliseconds: number;
}

/** Changes that come this quickly after each other are one wish, ms. */
const PAUSE = 250;

/** Once the stage has been looked at for so long, ms. */
const WARM = 1500;

/**
 * The bake at preview size, following every change of its settings while the one in view is of an older state. Null where that is fresh,
 * where there is no layout to bake to, and while something else is made.
 */
export function useBakePreview(): BakePreview | null {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const layout = useSheet((s) => s.unwrap);
  const bake = useSheet((s) => s.bake);
  const busy = useSheet((s) => s.job !== null);
  const [preview, setPreview] = useState<BakePreview | null>(null);
  const laid = isFresh(document, layout, 'unwrap') ? layout?.parts : undefined;
  const wanted = document && laid && canBake(document) && !isFresh(document, bake, 'bake') ? nameOf(document, 'bake') : null;
  useEffect(() => {
    if (!wanted || busy || !laid) return;
    const cancel = new Int32Array(new SharedArrayBuffer(4));
    let gone = false;
    const ask = async () => {
      const about = session.document;
      if (gone || !about || nameOf(about, 'bake') !== wanted) return;
      const meshes = await session.meshes(about, 'both');
      if (gone) return;
      const started = performance.now();
      const made = await session.bench.pool.run('bakePreview', { document: about, laid, meshes }, undefined, cancel);
      if (gone) return;
      const files: BakePreview['files'] = {};
      for (const [name, bytes] of Object.entries(made.files))
        if (!name.endsWith('Exr'))
          files[name as BakeFile] = URL.createObjectURL(new Blob([bytes as Uint8Array<ArrayBuffer>], { type: 'image/png' }));
      setPreview({ name: wanted, files, figures: made.figures, milliseconds: performance.now() - started });
    };
    // What can’t be baked is said when it is baked.
    const timer = setTimeout(() => void ask().catch(() => {}), PAUSE);
    return () => {
      gone = true;
      clearTimeout(timer);
      Atomics.store(cancel, 0, 1);
    };
  }, [session, wanted, laid, busy]);
  // The first answer is as quick as the next: what all of them stand on is made while nothing else is.
  const idle = document !== null && laid !== undefined && wanted === null && !busy && canBake(document);
  useEffect(() => {
    if (!idle || !laid) return;
    const cancel = new Int32Array(new SharedArrayBuffer(4));
    const warm = async () => {
      const about = session.document;
      if (!about) return;
      const meshes = await session.meshes(about, 'both');
      if (Atomics.load(cancel, 0) === 0) await session.bench.pool.run('bakeWarm', { document: about, laid, meshes }, undefined, cancel);
    };
    // Whatever is wrong with it is said when it is previewed or baked.
    const timer = setTimeout(() => void warm().catch(() => {}), WARM);
    return () => {
      clearTimeout(timer);
      Atomics.store(cancel, 0, 1);
    };
  }, [session, laid, idle]);
  useEffect(
    () => () => {
      for (const url of Object.values(preview?.files ?? {})) URL.revokeObjectURL(url);
    },
    [preview],
  );
  return preview && preview.name === wanted ? preview : null;
}
