'use client';

import { hashOf } from '@wellmorph/core/hash';
import { composedMaterials, type Material, painted } from '@wellmorph/core/pipeline/document';
import type { PreparedSurface } from '@wellmorph/core/pipeline/surface';
import type { Print } from '@wellmorph/core/print/print';
import { useEffect, useRef, useState } from 'react';
import type { SetPreview } from '@/plates/surfaced';
import { artworkFiles } from '@/session/artwork-files';
import { useSession, useSheet } from '@/session/context';
import { sentence } from '@/session/session';
import { isFresh } from '@/session/state';
import type { Held, Printing, Work } from '@/workers/protocol';
import { bakedMaps } from './run';

/** Side of the preview, texels: small enough to answer while a slider moves. */
const SIZE = 512;

/** The set as it would look, and what is known of its prints. */
export interface Previewed extends Pick<Work['look']['answer'], 'printed' | 'border'> {
  set: SetPreview | null;
  milliseconds: number | null;
  /** Why there is no newer one, in a sentence. */
  wrong: string | null;
}
const NOTHING = { milliseconds: null, printed: null, border: null, wrong: null };

/**
 * The set at preview size, following every move of a slider. The ground is laid once for a layout, its bake and the choice of
 * materials; after that only thresholds and colours are worked out again, the latest wish first.
 *
 * @param prints as they are, with what is being moved where it is @param border of which of them the border is wanted
 */
export function usePreview(drafted: (m: Material) => Material, prints: readonly Print[] | undefined, border: string | null): Previewed {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const layout = useSheet((s) => s.unwrap);
  const bake = useSheet((s) => s.bake);
  const [laid, setLaid] = useState<{ key: string; ground: Held<PreparedSurface> } | null>(null);
  const [set, setSet] = useState<SetPreview | null>(null);
  const [made, setMade] = useState<Omit<Previewed, 'set'>>(NOTHING);
  const freshLayout = isFresh(document, layout, 'unwrap');
  const key =
    document && layout && freshLayout
      ? hashOf([
          layout.name,
          isFresh(document, bake, 'bake') && bake?.name,
          document.surface,
          document.parts.map((p) => [p.id, p.material]),
          painted(document).map(({ part, region, material }) => [part.id, region, material.id]),
          composedMaterials(document).map((m) => m.id),
        ])
      : null;
  // Once another is wanted, the one that is there is of other materials than those at hand.
  const prepared = laid && laid.key === key ? laid.ground : null;
  // The ground that what is shown has to be of, whatever comes back meanwhile.
  const standing = useRef<Held<PreparedSurface> | null>(null);
  standing.current = prepared;
  // The key stands for all that the ground is laid from
  useEffect(() => {
    setLaid(null);
    if (!key || !document || !layout || composedMaterials(document).length === 0) {
      setSet(null);
      setMade(NOTHING);
      return;
    }
    let gone = false;
    void (async () => {
      try {
        const made = await session.bench.pool.run('ground', { document, laid: layout.parts, maps: await bakedMaps(session), size: SIZE });
        if (!gone) setLaid({ key, ground: session.bench.pool.hold(made) });
      } catch {
        // Without a ground the piece is shown in its plain materials.
      }
    })();
    return () => {
      gone = true;
    };
  }, [key]);
  const wanted = useRef<{ ground: Held<PreparedSurface>; materials: Material[]; printing: Omit<Printing, 'files'> | null } | null>(null);
  const busy = useRef(false);
  const materials = document ? composedMaterials(document).map(drafted) : [];
  const look = JSON.stringify([materials, prints, border]);
  // The text stands for the materials
  useEffect(() => {
    // What is still on its way is of a ground that is gone.
    const size = document?.brief.limits.textureSize ?? SIZE;
    const printing =
      document && prints && prints.length > 0
        ? { document: { parts: document.parts, materials: document.materials, prints: [...prints] }, size, border }
        : null;
    wanted.current = prepared && { ground: prepared, materials, printing };
    if (!prepared) return;
    const go = async () => {
      if (busy.current) return;
      busy.current = true;
      for (let now = wanted.current; now; now = wanted.current) {
        const { ground, materials: ask, printing: on } = now;
        wanted.current = null;
        const start = performance.now();
        try {
          const artworks = (on?.document.prints ?? []).map((p) => p.artwork);
          const printing = on && { ...on, files: await artworkFiles(artworks, session.bench.blobs) };
          const answer = await session.bench.pool.run('look', { materials: ask, printing }, undefined, undefined, ground);
          if (standing.current !== ground) continue;
          setSet(answer);
          setMade({ milliseconds: performance.now() - start, printed: answer.printed, border: answer.border, wrong: null });
        } catch (error) {
          // The next move tries again; one that came meanwhile is next.
          if (standing.current === ground) setMade({ ...NOTHING, wrong: sentence(error) });
        }
      }
      busy.current = false;
    };
    void go();
  }, [prepared, look]);
  return { set, ...made };
}
