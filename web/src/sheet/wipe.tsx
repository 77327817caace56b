'use client';

import Box from '@mui/material/Box';
import Slider from '@mui/material/Slider';
import { useState } from 'react';

/** Two pictures in one frame with an edge between them that can be moved by hand or with the arrow keys. */
export function Wipe({ left, right, names }: { left: string; right: string; names: [string, string] }) {
  const [at, setAt] = useState(50);
  const picture = { position: 'absolute', inset: 0, width: '100%', height: '100%', objectFit: 'contain' } as const;
  return (
    <Box
      sx={{ position: 'relative', height: 360, bgcolor: 'sheet.plate', border: 1, borderColor: 'divider', overflow: 'hidden', mb: 2 }}
      data-wipe={at}
    >
      <Box component="img" src={right} alt={names[1]} sx={picture} />
      <Box component="img" src={left} alt={names[0]} sx={{ ...picture, clipPath: `inset(0 ${100 - at}% 0 0)` }} />
      <Box
        sx={{
          position: 'absolute',
          top: 0,
          bottom: 0,
          left: `${at}%`,
          width: '2px',
          ml: '-1px',
          bgcolor: 'primary.main',
          pointerEvents: 'none',
        }}
      />
      {names.map((n, i) => (
        <Box
          key={i}
          className="narrow"
          sx={{
            position: 'absolute',
            bottom: 6,
            [i ? 'right' : 'left']: 8,
            fontSize: 12,
            bgcolor: 'background.paper',
            px: 0.7,
            border: 1,
            borderColor: 'divider',
          }}
        >
          {n}
        </Box>
      ))}
      <Slider
        aria-label="Where the two pictures meet"
        value={at}
        onChange={(_, v) => setAt(v as number)}
        track={false}
        sx={{
          position: 'absolute',
          inset: 0,
          width: '100%',
          height: '100%',
          p: 0,
          cursor: 'ew-resize',
          '& .MuiSlider-rail': { opacity: 0 },
          '& .MuiSlider-thumb': { width: 14, height: 14 },
        }}
      />
    </Box>
  );
}
