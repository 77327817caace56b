'use client';

import Box from '@mui/material/Box';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { kindOf, STEP_KINDS, type Step, type StepName } from '@wellmorph/core/form/steps/index';
import { useEffect, useState } from 'react';
import { newId } from '@/sheet/ids';
import { Written } from '@/sheet/plain';

/** Kinds that make something of their own: what a part can begin with. */
export const MAKERS = STEP_KINDS.filter((k) => kindOf(k).maker || kindOf(k).fitter);
/** Kinds that work on what is there: what a brought mesh can be given. */
export const CHANGERS = STEP_KINDS.filter((k) => !MAKERS.includes(k));

/** What kinds are for, as headings of the menu: what is there already is changed more often than added to. */
const GROUPS: readonly (readonly [string, (k: StepName) => boolean])[] = [
  ['Changes what stands above', (k) => Boolean(kindOf(k).changer)],
  ['Places and copies it', (k) => Boolean(kindOf(k).copies)],
  ['Makes something', (k) => Boolean(kindOf(k).maker)],
  ['Fits another part', (k) => Boolean(kindOf(k).fitter)],
];

/** A step with the starting dimensions of its kind. */
export const newStep = (kind: StepName): Step => ({ kind, id: newId(), enabled: true, ...kindOf(kind).fresh() }) as unknown as Step;

/** The kinds of step there are, each with what it makes; typing narrows them, Enter takes the first. */
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
  const [query, setQuery] = useState('');
  useEffect(() => setQuery(''), [anchor]);
  const words = query.trim().toLowerCase();
  const shown = kinds.filter((k) => `${kindOf(k).name} ${kindOf(k).about}`.toLowerCase().includes(words));
  return (
    <Menu
      open={anchor !== null}
      anchorEl={anchor}
      onClose={onClose}
      slotProps={{ list: { dense: true, sx: { pt: 0, maxWidth: 360 } }, paper: { sx: { maxHeight: '72vh' } } }}
    >
      <Box component="li" sx={{ position: 'sticky', top: 0, zIndex: 2, bgcolor: 'background.paper', px: 2, py: 1 }}>
        <Written
          line
          fullWidth
          // The menu takes the focus when it opens; what is typed goes here.
          autoFocus
          inputProps={{ 'aria-label': 'Search kinds of step' }}
          placeholder="search"
          value={query}
          onChange={(e) => setQuery(e.target.value)}
          onKeyDown={(e) => {
            if (e.key === 'Enter' && shown.length > 0) {
              // The button that opened the menu has the focus again before the key is done with: it would open it once more.
              e.preventDefault();
              onPick(shown[0]);
            }
            // Letters are for the field, not for the menu's own jumping about.
            if (e.key !== 'Escape' && e.key !== 'ArrowDown' && e.key !== 'Tab') e.stopPropagation();
          }}
          sx={{ py: 0.4 }}
        />
      </Box>
      {GROUPS.flatMap(([title, isOf]) => {
        const mine = shown.filter(isOf);
        if (mine.length === 0) return [];
        return [
          <Box
            component="li"
            key={title}
            aria-hidden
            className="narrow"
            sx={{ px: 2, pt: 1, pb: 0.2, fontSize: 12, fontWeight: 660, color: 'primary.main', borderTop: 1, borderColor: 'sheet.line' }}
          >
            {title}
          </Box>,
          ...mine.map((k) => (
            <MenuItem key={k} onClick={() => onPick(k)} sx={{ display: 'block', whiteSpace: 'normal', py: 0.5 }}>
              {kindOf(k).name}
              <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary', lineHeight: 1.3 }}>
                {kindOf(k).about}
              </Box>
            </MenuItem>
          )),
        ];
      })}
      {shown.length === 0 && <Box sx={{ px: 2, py: 1, fontSize: 13, color: 'text.secondary' }}>No kind of step is called that.</Box>}
    </Menu>
  );
}
