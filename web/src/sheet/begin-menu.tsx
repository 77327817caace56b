'use client';

import Box from '@mui/material/Box';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';

/** A menu of what something new can begin as, each with a line of what it is. */
export function BeginMenu<B extends { name: string; says: string }>({
  label,
  anchor,
  beginnings,
  onPick,
  onClose,
}: {
  label: string;
  /** What it opens from; closed when null. */
  anchor: HTMLElement | null;
  beginnings: readonly B[];
  onPick(beginning: B): void;
  onClose(): void;
}) {
  return (
    <Menu
      open={anchor !== null}
      anchorEl={anchor}
      onClose={onClose}
      slotProps={{ list: { dense: true, 'aria-label': label }, paper: { sx: { maxHeight: '70vh' } } }}
    >
      {beginnings.map((b) => (
        <MenuItem key={b.name} onClick={() => onPick(b)}>
          <Box sx={{ minWidth: 0 }}>
            {b.name}
            <Box component="span" className="narrow" sx={{ display: 'block', fontSize: 12, color: 'text.secondary' }}>
              {b.says}
            </Box>
          </Box>
        </MenuItem>
      ))}
    </Menu>
  );
}
