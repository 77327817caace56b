'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import { type Dab, MOST_DABS } from '@wellmorph/core/bake/dabs';
import { type AssetDocument, hasHigh } from '@wellmorph/core/pipeline/document';
import { useMemo, useRef, useState } from 'react';
import type { Stroking } from '@/plates/stroke';
import { useSession } from '@/session/context';
import type { AssetSession } from '@/session/session';
import { Choice, NumberField } from '@/sheet/fields';
import { useKept } from '@/sheet/kept';

/** What a stroke over the piece does to the distances. */
export interface Brush {
  does: 'nothing' | 'paints' | 'erases';
  radius: number;
  front: number;
  rear: number;
}

/** The brush, its sizes remembered between visits; it always begins at rest. */
export function useBrush(): [Brush, (brush: Brush) => void] {
  const number = (x: unknown, otherwise: number) => (typeof x === 'number' && x >= 0 ? x : otherwise);
  return useKept<Brush>('wellmorph-bake-brush', (k) => ({
    does: 'nothing',
    radius: Math.max(0.1, number(k.radius, 10)),
    front: number(k.front, 1),
    rear: number(k.rear, 1),
  }));
}

/** A place on a part. */
type At = Pick<Dab, 'part' | 'at'>;

/** A stroke of the brush over the piece: dabs all along it, or those under it taken away, as one change. */
function stroked(session: AssetSession, { does, radius, front, rear }: Brush, places: readonly At[]): void {
  const dabs = session.document?.bake.dabs ?? [];
  const under = (d: Dab) => places.some((p) => d.part === p.part && Math.hypot(...d.at.map((x, k) => x - p.at[k])) <= radius);
  const next = does === 'erases' ? dabs.filter((d) => !under(d)) : [...dabs, ...places.map((p) => ({ ...p, radius, front, rear }))];
  if (next.length > MOST_DABS) session.notify(`No more than ${MOST_DABS} places can be painted: take a larger brush.`);
  else if (next.length === dabs.length) session.notify('There is nothing painted under the brush.');
  else session.dispatch({ type: 'bake.set', patch: { dabs: next } });
}

/** The brush on the piece, and the places of the stroke that is being drawn. */
export function useStroking(brush: Brush, on: boolean): { stroking: Stroking | undefined; drawn: readonly At[] } {
  const session = useSession();
  const [drawn, setDrawn] = useState<readonly At[]>([]);
  const places = useRef<At[]>([]);
  const stroking = useMemo(
    (): Stroking | undefined =>
      on
        ? {
            spacing: brush.radius / 2,
            at(part, at) {
              places.current = [...places.current, { part, at }];
              setDrawn(places.current);
            },
            end() {
              const all = places.current;
              places.current = [];
              setDrawn([]);
              if (all.length > 0) stroked(session, brush, all);
            },
          }
        : undefined,
    [session, brush, on],
  );
  return { stroking, drawn };
}

/** How far rays search: measured, one for all, and what is painted over either. */
export function DistanceSettings({ document, brush, onBrush }: { document: AssetDocument; brush: Brush; onBrush(brush: Brush): void }) {
  const session = useSession();
  const b = document.bake;
  const set = (patch: Partial<typeof b>) => session.dispatch({ type: 'bake.set', patch });
  if (!hasHigh(document)) return null;
  return (
    <>
      <Choice
        label="Distances"
        value={b.distances}
        choices={[
          ['measured', 'measured'],
          ['uniform', 'one for all'],
        ]}
        onChange={(distances) => set({ distances })}
      />
      <Choice
        label="Directions"
        value={b.directions}
        choices={[
          ['averaged', 'averaged over edges'],
          ['split', 'split at hard edges'],
        ]}
        onChange={(directions) => set({ directions })}
      />
      {b.distances === 'uniform' && (
        <>
          <NumberField label="Outward" min={0} value={b.frontMm} onCommit={(frontMm) => set({ frontMm })} />
          <NumberField label="Inward" min={0} value={b.rearMm} onCommit={(rearMm) => set({ rearMm })} />
        </>
      )}
      <Box sx={{ display: 'flex', alignItems: 'center', justifyContent: 'space-between', gap: 1, minHeight: 34 }}>
        <Box className="narrow" sx={{ fontSize: 13 }}>
          By hand
        </Box>
        <ToggleButtonGroup
          value={brush.does}
          onChange={(_, does: Brush['does'] | null) => onBrush({ ...brush, does: does ?? 'nothing' })}
          aria-label="distances by hand"
        >
          <ToggleButton value="paints">Paint</ToggleButton>
          <ToggleButton value="erases" disabled={b.dabs.length === 0}>
            Erase
          </ToggleButton>
        </ToggleButtonGroup>
      </Box>
      {brush.does !== 'nothing' && (
        <>
          <NumberField label="Brush" min={0.1} max={100_000} value={brush.radius} onCommit={(radius) => onBrush({ ...brush, radius })} />
          {brush.does === 'paints' && (
            <>
              <NumberField label="Painted outward" min={0} value={brush.front} onCommit={(front) => onBrush({ ...brush, front })} />
              <NumberField label="Painted inward" min={0} value={brush.rear} onCommit={(rear) => onBrush({ ...brush, rear })} />
            </>
          )}
          <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary', pb: 0.6 }}>
            {brush.does === 'paints'
              ? 'Draw over the piece: full in the middle, fading out to the rim of the brush. Shift turns the view.'
              : 'Draw over the piece: what was painted under the brush goes back to what was measured.'}
          </Box>
        </>
      )}
      {b.dabs.length > 0 && (
        <Box sx={{ display: 'flex', alignItems: 'center', justifyContent: 'space-between', gap: 1 }}>
          <Box className="narrow" sx={{ fontSize: 12.5, color: 'text.secondary' }}>
            {b.dabs.length === 1 ? 'painted in one place' : `painted in ${b.dabs.length} places`}
          </Box>
          <Button onClick={() => set({ dabs: [] })}>As measured</Button>
        </Box>
      )}
    </>
  );
}
