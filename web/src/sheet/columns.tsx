'use client';

import Box from '@mui/material/Box';
import { styled } from '@mui/material/styles';
import { type ReactNode, useRef, useState } from 'react';
import { Group, type Layout, Panel, Separator } from 'react-resizable-panels';
import { keep, readKept } from './kept';

/** Widths of the outer columns, px, as they were last dragged to; the same at every stage. */
const KEPT = 'wellmorph-columns';
interface Widths {
  controls: number;
  aside: number;
}
const LEAST = { controls: 248, plate: 380, aside: 248 };
const MOST = 560;

/** What suits the window while nobody has dragged anything. */
const usual = (window: number): Widths =>
  window >= 1536 ? { controls: 320, aside: 340 } : window >= 1200 ? { controls: 286, aside: 290 } : { controls: 264, aside: 270 };

function widths(): Widths {
  const fresh = usual(window.innerWidth);
  const kept = readKept(KEPT);
  const one = (k: keyof Widths) => {
    const width = kept?.[k];
    return typeof width === 'number' && width >= LEAST[k] && width <= MOST ? width : fresh[k];
  };
  return { controls: one('controls'), aside: one('aside') };
}

/** The line between two columns: dragged, or moved by the arrow keys. */
const Line = styled(Separator)(({ theme }) => ({
  width: 1,
  background: (theme.vars ?? theme).palette.divider,
  outline: 'none',
  transition: 'box-shadow 120ms',
  '&[data-separator="hover"], &[data-separator="active"], &:focus-visible': {
    boxShadow: `0 0 0 1.5px ${(theme.vars ?? theme).palette.primary.main}`,
    zIndex: 2,
  },
}));

/** Controls, plate, findings and advice: the three columns of a stage. */
export function Columns({ controls, plate, aside }: { controls: ReactNode; plate: ReactNode; aside: ReactNode }) {
  const [start] = useState(widths);
  const group = useRef<HTMLDivElement>(null);
  const keepWidths = (layout: Layout) => {
    // The shares are those of what the two lines leave.
    const per = ((group.current?.offsetWidth ?? 0) - 2) / 100;
    const now: Widths = { controls: Math.round(layout.controls * per), aside: Math.round(layout.aside * per) };
    keep(KEPT, now);
  };
  return (
    <Group
      elementRef={group}
      style={{ height: '100%' }}
      onLayoutChanged={(layout, { isUserInteraction }) => isUserInteraction && keepWidths(layout)}
    >
      <Panel
        id="controls"
        defaultSize={`${start.controls}px`}
        minSize={`${LEAST.controls}px`}
        maxSize={`${MOST}px`}
        groupResizeBehavior="preserve-pixel-size"
      >
        <Box component="section" aria-label="controls" sx={{ height: '100%', overflowY: 'auto', py: 1.4 }}>
          {controls}
        </Box>
      </Panel>
      <Line aria-label="width of the controls" />
      <Panel id="plate" minSize={`${LEAST.plate}px`}>
        <Box component="section" aria-label="plate" sx={{ position: 'relative', height: '100%', minWidth: 0, bgcolor: 'sheet.plate' }}>
          {plate}
        </Box>
      </Panel>
      <Line aria-label="width of findings and advice" />
      <Panel
        id="aside"
        defaultSize={`${start.aside}px`}
        minSize={`${LEAST.aside}px`}
        maxSize={`${MOST}px`}
        groupResizeBehavior="preserve-pixel-size"
      >
        <Box component="section" aria-label="findings and advice" tabIndex={0} sx={{ height: '100%', overflowY: 'auto', p: 1.6 }}>
          {aside}
        </Box>
      </Panel>
    </Group>
  );
}
