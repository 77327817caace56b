'use client';

import Box from '@mui/material/Box';
import Dialog from '@mui/material/Dialog';

const KEYS: [string, string][] = [
  ['1 … 8', 'go to a stage'],
  ['Ctrl + Z', 'take the last change back'],
  ['Ctrl + Shift + Z', 'bring it back again'],
  ['/', 'search steps and parts'],
  ['W', 'see the whole piece'],
  ['E', 'show or hide edges'],
  ['L', 'leave the chosen part out of the view'],
  ['O', 'show only the chosen part'],
  ['A', 'show all parts'],
  ['B', 'show what is left out as lines'],
  ['arrows', 'in a figure: up or down (Shift: ten times); on a profile point: move it 1 mm (Shift: 0.1 mm)'],
  ['Delete', 'remove the chosen profile point'],
  ['N + , . K', 'moving islands: the next one, that one too, turn left and right, lock; arrows move (Shift: by the padding)'],
  ['X Y Z C', 'on a photograph: draw edges along an axis, put corners; arrows move a handle by a pixel (Shift: ten)'],
  ['Esc', 'leave a field as it was'],
  ['?', 'this list'],
];

export function Keys({ open, onClose }: { open: boolean; onClose(): void }) {
  return (
    <Dialog open={open} onClose={onClose} aria-labelledby="keys-title">
      <Box sx={{ p: 3, width: 440 }}>
        <Box id="keys-title" component="h2" sx={{ typography: 'h2', mt: 0 }}>
          Keys
        </Box>
        <Box component="dl" sx={{ display: 'grid', gridTemplateColumns: '130px 1fr', rowGap: 0.8, m: 0 }}>
          {KEYS.map(([k, what]) => (
            <Box key={k} sx={{ display: 'contents' }}>
              <Box component="dt" className="mono" sx={{ fontSize: 12.5 }}>
                {k}
              </Box>
              <Box component="dd" sx={{ m: 0 }}>
                {what}
              </Box>
            </Box>
          ))}
        </Box>
      </Box>
    </Dialog>
  );
}
