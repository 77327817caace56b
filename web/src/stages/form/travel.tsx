'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Slider from '@mui/material/Slider';
import type { Travel } from '@wellmorph/core/inspect/relations';
import type { Part } from '@wellmorph/core/pipeline/document';
import { figure } from '@wellmorph/core/units/lengths';
import { useEffect } from 'react';
import { useLengths, useSession, useSheet } from '@/session/context';
import type { Pose } from '@/session/state';
import { Choice, NumberField } from '@/sheet/fields';

/** A part shown at a place of its travel; none where all stand as they are. */
export const usePose = (): Pose => useSheet((s) => s.pose);

const FRESH: Travel = { kind: 'slide', axis: 'y', from: 0, to: 40, x: 0, y: 0, z: 0 };

/** How a part moves, what it meets on its way, and a look at it anywhere along it. */
export function TravelFields({ part }: { part: Part }) {
  const session = useSession();
  const found = useSheet((s) => s.findings?.standings.travels.find((t) => t.part === part.id));
  const parts = useSheet((s) => s.document?.parts);
  const pose = usePose();
  const { length } = useLengths();
  const t = part.travel;
  useEffect(() => () => session.set((s) => ({ pose: { ...s.pose, ...{ part: null } } })), [part.id]);
  if (!t)
    return (
      <Button sx={{ mt: 0.6 }} onClick={() => session.dispatch({ type: 'travel.set', part: part.id, travel: FRESH })}>
        Let it slide or turn
      </Button>
    );
  const put = (patch: Partial<Travel>) => session.dispatch({ type: 'travel.set', part: part.id, travel: { ...t, ...patch } });
  const unit = t.kind === 'slide' ? undefined : '°';
  const shown = (x: number, digits: number) => (t.kind === 'slide' ? length(x, digits) : `${figure(x, digits)}°`);
  const name = (id: string) => parts?.find((p) => p.id === id)?.name ?? '?';
  const at = pose.part === part.id ? pose.at : t.from;
  return (
    <Box sx={{ mt: 0.8, pt: 0.6, borderTop: 1, borderColor: 'sheet.line' }} data-travel={part.id}>
      <Choice
        label="It moves"
        value={t.kind}
        choices={[
          ['slide', 'sliding along'],
          ['turn', 'turning about'],
        ]}
        onChange={(kind) => put({ kind })}
      />
      <Choice
        label="Axis"
        value={t.axis}
        choices={[
          ['x', 'x'],
          ['y', 'y'],
          ['z', 'z'],
        ]}
        onChange={(axis) => put({ axis })}
      />
      {(['from', 'to'] as const).map((k) => (
        <NumberField
          key={k}
          label={k === 'from' ? 'From' : 'To'}
          kind={t.kind === 'slide' ? 'length' : 'number'}
          unit={unit}
          value={t[k]}
          onCommit={(v) => put({ [k]: v })}
        />
      ))}
      {t.kind === 'turn' &&
        (['x', 'y', 'z'] as const)
          .filter((k) => k !== t.axis)
          .map((k) => <NumberField key={k} label={`Axis at ${k}`} value={t[k]} onCommit={(v) => put({ [k]: v })} />)}
      <Slider
        size="small"
        aria-label="Look at it on its way"
        min={Math.min(t.from, t.to)}
        max={Math.max(t.from, t.to)}
        step={Math.abs(t.to - t.from) / 100 || 1}
        value={at}
        onChange={(_, v) => session.set((s) => ({ pose: { ...s.pose, ...{ part: part.id, at: v as number } } }))}
        sx={{ py: '7px', '& .MuiSlider-thumb': { width: 12, height: 12 }, '& .MuiSlider-rail': { bgcolor: 'divider', opacity: 1 } }}
      />
      <Box sx={{ fontSize: 12.5, lineHeight: 1.4, color: found?.clash ? 'error.main' : 'text.secondary' }} role="status">
        {pose.part === part.id && `shown at ${shown(at, 1)} · `}
        {!found
          ? 'not followed yet'
          : found.clash
            ? `runs into ${name(found.clash.part)} at ${shown(found.clash.at, 2)}`
            : found.least
              ? `clear all the way; nearest ${length(found.least.gap, 3)} to ${name(found.least.part)}, at ${shown(found.least.at, 1)}`
              : 'clear all the way'}
      </Box>
      <Button onClick={() => session.dispatch({ type: 'travel.set', part: part.id, travel: null })}>Fixed in place again</Button>
    </Box>
  );
}
