'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Slider from '@mui/material/Slider';
import type { PartSection } from '@wellmorph/core/inspect/section';
import type { Plane } from '@wellmorph/core/mesh/slice';
import { useMemo } from 'react';
import type { Box3 } from '@/plates/view';
import { useSession, useSheet } from '@/session/context';
import type { SectionPlane } from '@/session/state';
import { useAnswered } from '@/sheet/answered';
import { NumberField } from '@/sheet/fields';

const AXES = { x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] } as const;

/** The plane of a section: what lies on the far side of where its normal points is shown. */
export function planeOf({ axis, at, turned }: SectionPlane): Plane {
  const k = turned ? -1 : 1;
  const [x, y, z] = AXES[axis];
  return { normal: [k * x, k * y, k * z], offset: k * at };
}

/** A section across an axis through the middle of a piece. */
export const freshSection = (axis: SectionPlane['axis'], bounds: Box3): SectionPlane => ({
  axis,
  at: Math.round(10 * bounds.centre[axis]) / 10,
  turned: false,
});

const NOTHING: readonly PartSection[] = [];

/** What the chosen plane cuts of the parts that are formed: while it is dragged one cut is made after the other, the last one last. */
export function useSection(section: SectionPlane | null): { plane: Plane; cut: readonly PartSection[] } | null {
  const session = useSession();
  const parts = useSheet((s) => s.form?.parts);
  const plane = useMemo(() => (section ? planeOf(section) : null), [section]);
  const ask = useMemo(() => (plane && parts ? { parts, plane } : null), [plane, parts]);
  const made = useAnswered(ask, (of) => session.bench.pool.run('section', of));
  // A cut of parts that have changed since is not shown.
  const cut = made && made.ask.parts === parts ? made.answer : NOTHING;
  return useMemo(() => (plane ? { plane, cut } : null), [plane, cut]);
}

/** Where the plane lies: dragged or typed, and from which side it is looked at. */
export function SectionBar({ section, bounds }: { section: SectionPlane; bounds: Box3 }) {
  const session = useSession();
  const put = (patch: Partial<SectionPlane>) => session.set({ section: { ...section, ...patch } });
  const [low, high] = [bounds.min[section.axis], bounds.max[section.axis]];
  return (
    <Box
      data-section={section.axis}
      sx={{
        position: 'absolute',
        left: 16,
        right: 16,
        bottom: 34,
        zIndex: 4,
        display: 'flex',
        alignItems: 'center',
        gap: 1.5,
        px: 1.5,
        py: 0.4,
        bgcolor: 'background.paper',
        border: 1,
        borderColor: 'divider',
        borderRadius: 1,
      }}
    >
      <Box sx={{ width: 190 }}>
        <NumberField label={`Section, ${section.axis} at`} value={section.at} min={-1e5} max={1e5} onCommit={(at) => put({ at })} />
      </Box>
      <Slider
        aria-label={`Place of the section along ${section.axis}`}
        size="small"
        min={low}
        max={high}
        step={Math.max((high - low) / 400, 1e-3)}
        value={Math.min(high, Math.max(low, section.at))}
        onChange={(_, at) => put({ at: Math.round(1000 * (at as number)) / 1000 })}
        sx={{ flex: 1 }}
      />
      <Button onClick={() => put({ turned: !section.turned })}>Other side</Button>
      <Button onClick={() => session.set({ section: null })}>Whole</Button>
    </Box>
  );
}
