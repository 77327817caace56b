'use client';

import Box from '@mui/material/Box';
import ListSubheader from '@mui/material/ListSubheader';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { kindOf, STEP_KINDS, type Step, type StepName } from '@wellmorph/core/form/steps/index';
import { newId } from '@/sheet/ids';

/** Kinds that make something of their own: what a part can begin with. */
export const MAKERS = STEP_KINDS.filter((k) => kindOf(k).maker || kindOf(k).fitter);
/** Kinds that work on what is there: what a brought mesh can be given. */
export const CHANGERS = STEP_KINDS.filter((k) => !MAKERS.includes(k));

/** What kinds are for, as headings of the menu. */
const GROUPS: readonly (readonly [string, (k: StepName) => boolean])[] = [
  ['Makes something', (k) => Boolean(kindOf(k).maker)],
  ['Fits another part', (k) => Boolean(kindOf(k).fitter)],
  ['Changes what stands above', (k) => Boolean(kindOf(k).changer)],
  ['Places and copies it', (k) => Boolean(kindOf(k).copies)],
];

/** A step with the starting dimensions of its kind. */
export const newStep = (kind: StepName): Step => ({ kind, id: newId(), enabled: true, ...kindOf(kind).fresh() }) as unknown as Step;

/** The kinds of step there are, each with what it makes. */
export function StepMenu({
  anchor,
  kinds,
  onPick,
  onClose,
}: {
  anchor: HTMLElement | null;
  kinds: readonly StepName[];
  onPick(kind: StepName): void;
  onClose(): void;
}) {
  return (
    <Menu open={anchor !== null} anchorEl={anchor} onClose={onClose} slotProps={{ list: { dense: true } }}>
      {GROUPS.flatMap(([title, isOf]) => {
        const mine = kinds.filter(isOf);
        if (mine.length === 0) return [];
        return [
          <ListSubheader key={title} sx={{ lineHeight: 2, fontSize: 12, bgcolor: 'background.paper' }}>
            {title}
          </ListSubheader>,
          ...mine.map((k) => (
            <MenuItem key={k} onClick={() => onPick(k)} sx={{ display: 'block', whiteSpace: 'normal', maxWidth: 340, py: 0.6 }}>
              {kindOf(k).name}
              <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary', lineHeight: 1.3 }}>
                {kindOf(k).about}
              </Box>
            </MenuItem>
          )),
        ];
      })}
    </Menu>
  );
}
