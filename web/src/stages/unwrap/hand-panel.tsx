'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { unwrapTrial } from '@wellmorph/core/pipeline/trials';
import { shifted, UNMOVED } from '@wellmorph/core/uv/hand/places';
import { ALIGNMENTS, type Alignment, alignedShifts, boxOf, brought } from '@wellmorph/core/uv/hand/snap';
import { useEffect, useRef } from 'react';
import { type Hand, keyOf } from '@/plates/hand';
import { degreesOf, pointsOf } from '@/plates/layout-hand';
import { useSession, useSheet } from '@/session/context';
import { isFresh } from '@/session/state';
import { Choice, Heading, NumberField } from '@/sheet/fields';
import type { IslandPath } from '@/workers/protocol';

/** Turns islands are given most. */
const QUARTERS = [
  ['a quarter to the left', 1],
  ['a quarter to the right', -1],
] as const;

/** Files what moving islands came to among the trials, once it is done with and laid out. */
function useTrialOfHand(on: boolean): void {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const layout = useSheet((s) => s.unwrap);
  const places = document?.unwrap.places;
  const fresh = isFresh(document, layout, 'unwrap');
  const filed = useRef(places);
  useEffect(() => {
    // What was there before anything was moved here is filed already, or belongs to another visit.
    if (on || !document || !layout || !fresh || places === filed.current) return;
    filed.current = places;
    if (!places?.length) return;
    const trial = { stage: 'unwrap' as const, ...unwrapTrial(document, layout.figures), milliseconds: 0 };
    void session.addTrial({ ...trial, resultName: layout.name, snapshot: document });
  }, [on, document, layout, fresh, places, session]);
}

/** Brings what is in hand in line. */
function Align({ hand, islands, size, padding }: { hand: Hand; islands: readonly IslandPath[]; size: number; padding: number }) {
  const align = (how: Alignment) => {
    const { there, moved, also, chosen } = hand;
    const mine = islands.flatMap((i) => {
      const key = keyOf(i);
      const from = there?.get(key);
      const now = moved.get(key) ?? from;
      return from && now && (key === chosen?.key || also.has(key)) ? [{ key, now, box: boxOf(pointsOf(i.path), brought(from, now)) }] : [];
    });
    const shifts = alignedShifts(
      mine.map((i) => i.box),
      how,
      padding,
      size,
    );
    hand.put(new Map(mine.map(({ key, now }, i) => [key, shifted(now, now.at, { ...UNMOVED, x: shifts[i][0], y: shifts[i][1] })])));
  };
  return (
    <Choice<Alignment | ''>
      label="Bring"
      value=""
      choices={[['', 'in line …'], ...(Object.entries(ALIGNMENTS) as [Alignment, string][])]}
      onChange={(how) => how && align(how)}
    />
  );
}

/** Islands put where somebody wants them: the chosen one’s figures, what is locked, and the way back to the packer. */
export function HandPanel({
  hand,
  on,
  onHand,
  islands,
}: {
  hand: Hand;
  on: boolean;
  onHand(on: boolean): void;
  islands: readonly IslandPath[];
}) {
  const document = useSheet((s) => s.document);
  const size = document?.brief.limits.textureSize ?? 1024;
  useTrialOfHand(on);
  const { chosen, locked, placed } = hand;
  const name = document?.parts.find((p) => p.id === chosen?.part)?.name ?? '';
  const fast = chosen !== null && locked.has(chosen.key);
  return (
    <Box sx={{ mt: 2 }}>
      <Heading aside={placed > 0 ? `${placed} placed` : undefined}>Islands by hand</Heading>
      <Button variant={on ? 'contained' : 'outlined'} aria-pressed={on} onClick={() => onHand(!on)} sx={{ my: 0.6 }}>
        {on ? 'Done moving islands' : 'Move islands'}
      </Button>
      {on && !chosen && (
        <Box role="status" sx={{ fontSize: 12.5, color: 'text.secondary', my: 0.6 }}>
          {hand.there ? 'Drag an island in the layout. All others stay where they are.' : 'Finding the islands …'}
        </Box>
      )}
      {on && chosen && (
        <>
          <Box role="status" sx={{ fontSize: 12.5, my: 0.6 }}>
            <b>
              {name}, island {chosen.island + 1}
            </b>
            {fast ? ', locked' : ''}
            {hand.also.size > 0 ? ` and ${hand.also.size} more` : ''}
          </Box>
          {hand.also.size > 0 ? (
            <Align hand={hand} islands={islands} size={size} padding={document?.unwrap.padding ?? 0} />
          ) : (
            <Box sx={{ fontSize: 11.5, color: 'text.secondary', mb: 0.6 }}>Shift takes more of them in hand.</Box>
          )}
          <NumberField
            label="Density"
            kind="number"
            unit="px/cm"
            min={0.01}
            max={1e5}
            digits={2}
            value={10 * size * chosen.place.scale}
            onCommit={(v) => hand.shift(chosen.place.at, { ...UNMOVED, scale: v / (10 * size * chosen.place.scale) })}
          />
          <NumberField
            label="Angle"
            hint="more turns it to the left"
            kind="number"
            unit="°"
            min={-720}
            max={720}
            digits={2}
            value={degreesOf(chosen.place.angle)}
            onCommit={(v) => hand.shift(chosen.place.at, { ...UNMOVED, turn: ((v - degreesOf(chosen.place.angle)) * Math.PI) / 180 })}
          />
          <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.8, my: 0.8 }}>
            {QUARTERS.map(([words, way]) => (
              <Button
                key={words}
                variant="outlined"
                aria-label={`Turn ${words}`}
                onClick={() => hand.shift(chosen.place.at, { ...UNMOVED, turn: (way * Math.PI) / 2 })}
              >
                {way > 0 ? '90° left' : '90° right'}
              </Button>
            ))}
            <Button variant="outlined" onClick={() => hand.lock(!fast)}>
              {fast ? 'Unlock' : 'Lock'}
            </Button>
            <Button variant="outlined" onClick={hand.release}>
              Pack it again
            </Button>
          </Box>
        </>
      )}
      {on && placed > 0 && (
        <Box sx={{ fontSize: 12.5, my: 0.6 }}>
          Every island stays where it lies now, whatever is set above.{' '}
          <Button size="small" onClick={hand.packRest}>
            {locked.size > 0 ? `Pack all but the ${locked.size} locked` : 'Pack all again'}
          </Button>
        </Box>
      )}
    </Box>
  );
}
