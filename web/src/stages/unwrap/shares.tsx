'use client';

import Box from '@mui/material/Box';
import { deliveredParts } from '@wellmorph/core/pipeline/document';
import { figure } from '@wellmorph/core/units/lengths';
import { useSession, useSheet } from '@/session/context';
import { isFresh } from '@/session/state';
import { Choice, Heading, NumberField } from '@/sheet/fields';
import { DensityField, GrainChoice } from './density-grain';

/** How a part is seen, and the share of texels usual for that: common practice, no source. */
const SEEN: readonly (readonly [number, string])[] = [
  [1.5, 'seen close'],
  [1, 'normal'],
  [0.5, 'inside or underneath'],
];

function Seen({ weight, onWeight }: { weight: number; onWeight(weight: number): void }) {
  const usual = SEEN.some(([w]) => w === weight);
  return (
    <Choice
      label="it is"
      value={usual ? weight : 0}
      choices={usual ? SEEN : [[0, 'as set'], ...SEEN]}
      onChange={(w) => w > 0 && onWeight(w)}
    />
  );
}

/** How many texels each part gets against the others, and which way its grain runs. */
export function Shares() {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const layout = useSheet((s) => s.unwrap);
  const selected = useSheet((s) => s.selected);
  if (!document) return null;
  const fresh = isFresh(document, layout, 'unwrap');
  const f = layout?.figures;
  return (
    <>
      <Box sx={{ mt: 2 }}>
        <Heading aside="1 = equal density">Share of texels</Heading>
      </Box>
      <NumberField
        label="Where nobody looks"
        hint={fresh && f?.unseenShare ? `${figure(100 * f.unseenShare, 0)} % of the surface` : 'inside, covered'}
        kind="number"
        unit="×"
        min={0.1}
        max={1}
        value={document.unwrap.unseen}
        width={74}
        onCommit={(unseen) => session.dispatch({ type: 'unwrap.set', patch: { unseen } })}
      />
      {deliveredParts(document).map((p) => {
        const own = f?.parts.find((x) => x.id === p.id);
        return (
          <Box
            key={p.id}
            sx={{ bgcolor: selected.part === p.id ? 'sheet.tint' : undefined, mx: -0.6, px: 0.6 }}
            onFocus={() => session.select({ part: p.id })}
          >
            <NumberField
              label={p.name}
              hint={own && fresh ? `${figure(own.density, 1)} px/cm` : undefined}
              kind="number"
              unit="×"
              min={0.05}
              max={20}
              value={p.weight}
              width={74}
              onCommit={(weight) => session.dispatch({ type: 'part.set', part: p.id, patch: { weight } })}
            />
            {selected.part === p.id && (
              <Seen weight={p.weight} onWeight={(weight) => session.dispatch({ type: 'part.set', part: p.id, patch: { weight } })} />
            )}
            {(selected.part === p.id || p.pxPerCm) && (
              <DensityField
                label="its density"
                free="as the tile allows"
                value={p.pxPerCm}
                onCommit={(pxPerCm) => session.dispatch({ type: 'part.set', part: p.id, patch: { pxPerCm } })}
              />
            )}
            {(selected.part === p.id || (p.grain ?? 'none') !== 'none') && (
              <GrainChoice
                label="its grain"
                hint={own?.grain && fresh ? `${figure(own.grain.mean, 1)}° off, worst ${figure(own.grain.worst, 1)}°` : undefined}
                value={p.grain}
                onChange={(grain) => session.dispatch({ type: 'part.set', part: p.id, patch: { grain } })}
              />
            )}
          </Box>
        );
      })}
    </>
  );
}
