'use client';

import type { TileRect } from '@wellmorph/core/bake/window';
import type { BakeFile } from '@wellmorph/core/pipeline/bake';
import { canBake } from '@wellmorph/core/pipeline/document';
import { nameOf } from '@wellmorph/core/pipeline/results';
import { useEffect, useState } from 'react';
import { useSession, useSheet } from '@/session/context';
import { isCancelled, sentence } from '@/session/session';
import { isFresh } from '@/session/state';

/** A rectangle of the map in view, baked at its full size with the settings as they are. */
export interface BakedWindow {
  picture: string;
  at: TileRect;
  side: number;
  missedShare: number;
  backShare: number;
  milliseconds: number;
}

/** The rectangle that was drawn, baked anew with every change of the settings; null while it isn't. */
export function useWindow(rect: TileRect | null, map: BakeFile | null): BakedWindow | null {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const layout = useSheet((s) => s.unwrap);
  const busy = useSheet((s) => s.job !== null);
  const [baked, setBaked] = useState<{ key: string; window: BakedWindow } | null>(null);
  const laid = isFresh(document, layout, 'unwrap') ? layout?.parts : undefined;
  const name = document && laid && canBake(document) ? nameOf(document, 'bake') : null;
  const key = rect && map && name ? JSON.stringify([name, map, rect]) : null;
  useEffect(() => {
    const about = session.document;
    if (!key || !rect || !map || !laid || !about || busy) return;
    const cancel = new Int32Array(new SharedArrayBuffer(4));
    let gone = false;
    const ask = async () => {
      const meshes = await session.meshes(about, 'both');
      if (gone) return;
      const started = performance.now();
      const made = await session.bench.pool.run('bakeWindow', { document: about, laid, meshes, rect, map }, undefined, cancel);
      if (gone) return;
      const { png, ...window } = made;
      const picture = URL.createObjectURL(new Blob([png as Uint8Array<ArrayBuffer>], { type: 'image/png' }));
      setBaked({ key, window: { ...window, picture, milliseconds: performance.now() - started } });
    };
    ask().catch((error) => !gone && !isCancelled(error) && session.notify(sentence(error), 'error'));
    return () => {
      gone = true;
      Atomics.store(cancel, 0, 1);
    };
    // The key stands for the rectangle and the map.
  }, [session, key, laid, busy]);
  useEffect(() => () => void (baked && URL.revokeObjectURL(baked.window.picture)), [baked]);
  return baked && baked.key === key ? baked.window : null;
}
