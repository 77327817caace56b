'use client';

import Box from '@mui/material/Box';
import type { ReactNode } from 'react';

/** Controls, plate, findings and advice: the three columns of a stage. */
export function Columns({ controls, plate, aside }: { controls: ReactNode; plate: ReactNode; aside: ReactNode }) {
  return (
    <Box
      sx={{
        height: '100%',
        display: 'grid',
        gridTemplateColumns: { xs: '264px minmax(0,1fr) 270px', lg: '286px minmax(0,1fr) 290px', xl: '320px minmax(0,1fr) 340px' },
        gridTemplateRows: 'minmax(0, 1fr)',
      }}
    >
      <Box component="section" aria-label="controls" sx={{ overflowY: 'auto', borderRight: 1, borderColor: 'divider', py: 1.4 }}>
        {controls}
      </Box>
      <Box component="section" aria-label="plate" sx={{ position: 'relative', minWidth: 0, minHeight: 0, bgcolor: 'sheet.plate' }}>
        {plate}
      </Box>
      <Box component="section" aria-label="findings and advice" sx={{ overflowY: 'auto', borderLeft: 1, borderColor: 'divider', p: 1.6 }}>
        {aside}
      </Box>
    </Box>
  );
}
