'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { clickedSeams, SEAM_REACH, type SeamReach } from '@wellmorph/core/form/seam-paths';
import { type AssetDocument, originalOf, type Part } from '@wellmorph/core/pipeline/document';
import { useCallback, useEffect, useRef, useState } from 'react';
import { useSession, useSheet } from '@/session/context';
import { sentence } from '@/session/session';
import { Choice, Heading } from '@/sheet/fields';
import { newId } from '@/sheet/ids';
import { useKept } from '@/sheet/kept';
import type { Work } from '@/workers/protocol';

type Place = [number, number, number];

/** Where a path goes on from. */
export interface PathStart {
  part: string;
  place: Place;
}

/** Seams as they are opened and closed on the piece. */
export interface SeamPen {
  reach: SeamReach;
  setReach(reach: SeamReach): void;
  start: PathStart | null;
  drop(): void;
  /** A click on a face of the layout’s mesh, and one on an island of the layout itself. */
  click(part: string, face: number, point: Place): void;
  clickTile(part: string, island: number, tile: [number, number]): void;
}

const reachFrom = (kept: Record<string, unknown>): { reach: SeamReach } => ({
  reach: typeof kept.reach === 'string' && Object.hasOwn(SEAM_REACH, kept.reach) ? (kept.reach as SeamReach) : 'edge',
});

/** @param on seams are drawn: Escape ends a path */
export function useSeamPen(on: boolean): SeamPen {
  const session = useSession();
  const [{ reach }, keep] = useKept('wellmorph-seams', reachFrom);
  const [start, setStart] = useState<PathStart | null>(null);
  const now = useRef({ reach, start, on });
  now.current = { reach, start, on };
  // Clicks are answered one after the other: a path goes on from where the one before ended.
  const answered = useRef<Promise<void>>(Promise.resolve());
  useEffect(() => {
    if (!on) setStart(null);
    const key = (e: KeyboardEvent) => e.key === 'Escape' && setStart(null);
    if (on) window.addEventListener('keydown', key);
    return () => window.removeEventListener('keydown', key);
  }, [on]);
  const take = useCallback(
    (clicked: string, place: Work['seamPath']['ask']['at']) => {
      const { unwrap, document } = session.state;
      if (!unwrap || !document) return;
      const { parts } = unwrap;
      const part = owner(document, clicked)?.id;
      if (!part) return;
      const answer = async () => {
        const { reach: how, start: from } = now.current;
        const begun = how === 'path' && from?.part === part ? from.place : null;
        const found = await session.bench.pool.run('seamPath', { parts, part, at: place, reach: how, from: begun });
        const end = found.points[found.points.length - 1] as Place;
        if (how === 'path' && now.current.reach === how && now.current.on) {
          const next = { part, place: end };
          now.current = { ...now.current, start: next };
          setStart(next);
        }
        // What it is put into is looked for when the answer is there.
        const target = session.document?.parts.find((p) => p.id === part);
        if (!target || found.points.length < 2) return;
        session.dispatch({ type: 'seams.set', part, seams: clickedSeams(target.seams ?? [], found, newId()) });
      };
      answered.current = answered.current.then(answer).catch((error) => session.notify(sentence(error), 'error'));
    },
    [session],
  );
  const click = useCallback((part: string, face: number, point: Place) => take(part, { face, point }), [take]);
  const clickTile = useCallback((part: string, island: number, tile: [number, number]) => take(part, { island, tile }), [take]);
  const drop = useCallback(() => setStart(null), []);
  const setReach = (next: SeamReach) => {
    setStart(null);
    keep({ reach: next });
  };
  return { reach, setReach, start, drop, click, clickTile };
}

/** The part whose seams a click on one of its copies changes. */
const owner = (document: AssetDocument, id: string): Part | undefined => {
  const part = document.parts.find((p) => p.id === id);
  return part && originalOf(document, part);
};

/** How seams are drawn, and those that were. */
export function HandSeams({ pen, on, onDraw }: { pen: SeamPen; on: boolean; onDraw(on: boolean): void }) {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const lost = useSheet((s) => s.form?.marks);
  const drawn = document?.parts.filter((p) => p.seams?.length) ?? [];
  return (
    <Box sx={{ mt: 2 }}>
      <Heading aside={drawn.length > 0 ? `${drawn.reduce((n, p) => n + (p.seams?.length ?? 0), 0)} drawn` : undefined}>
        Seams by hand
      </Heading>
      <Button variant={on ? 'contained' : 'outlined'} aria-pressed={on} onClick={() => onDraw(!on)} sx={{ my: 0.6 }}>
        {on ? 'Done drawing seams' : 'Draw seams'}
      </Button>
      {on && (
        <>
          <Choice
            label="A click takes"
            value={pen.reach}
            choices={Object.entries(SEAM_REACH) as [SeamReach, string][]}
            onChange={pen.setReach}
          />
          <Box role="status" sx={{ fontSize: 12.5, color: 'text.secondary', my: 0.6 }}>
            {pen.reach !== 'path'
              ? 'Click an edge of the piece or the layout: it is opened; a seam is closed; what was drawn is taken back.'
              : pen.start
                ? 'Click the next corner; the shortest way there is opened, or closed where it is a seam. Esc ends the path.'
                : 'Click a corner to begin.'}
          </Box>
        </>
      )}
      {drawn.map((p) => {
        const gone = lost?.find((m) => m.part === p.id)?.lostSeams.length ?? 0;
        return (
          <Box key={p.id} sx={{ display: 'flex', justifyContent: 'space-between', alignItems: 'center', fontSize: 12.5 }}>
            <span>
              {p.name}: {p.seams?.length} {p.seams?.length === 1 ? 'seam' : 'seams'}
              {gone > 0 && (
                <Box component="span" sx={{ color: 'error.main' }}>
                  , {gone} not found on it any more
                </Box>
              )}
            </span>
            <Button
              aria-label={`Take the seams of ${p.name} back`}
              onClick={() => session.dispatch({ type: 'seams.set', part: p.id, seams: [] })}
            >
              Take back
            </Button>
          </Box>
        );
      })}
    </Box>
  );
}
