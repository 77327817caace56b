'use client';

import Box from '@mui/material/Box';
import Slider from '@mui/material/Slider';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import { useState } from 'react';

/** How large the pictures are shown: whole, or so many pixels of the screen for one of theirs. */
type Zoom = 'whole' | 1 | 2 | 4;
const ZOOMS: readonly (readonly [Zoom, string])[] = [
  ['whole', 'whole'],
  [1, '1 : 1'],
  [2, '2 : 1'],
  [4, '4 : 1'],
];

/**
 * Two pictures in one frame with an edge between them that can be moved by hand or with the arrow keys; whole, or at their own size and
 * larger, the frame then moved over them.
 */
export function Wipe({ left, right, names }: { left: string; right: string; names: [string, string] }) {
  const [at, setAt] = useState(50);
  const [zoom, setZoom] = useState<Zoom>('whole');
  const [size, setSize] = useState<{ width: number; height: number } | null>(null);
  const whole = zoom === 'whole' || !size;
  const picture = {
    position: 'absolute',
    inset: 0,
    width: '100%',
    height: '100%',
    objectFit: 'contain',
    imageRendering: whole || zoom === 1 ? 'auto' : 'pixelated',
  } as const;
  return (
    <Box sx={{ mb: 2 }}>
      <Box
        // Moved over by its own bars, or by the arrow keys when it has the focus.
        tabIndex={whole ? undefined : 0}
        role="group"
        aria-label="The two pictures"
        sx={{
          position: 'relative',
          height: '44vh',
          minHeight: 300,
          bgcolor: 'sheet.plate',
          border: 1,
          borderColor: 'divider',
          overflow: 'auto',
        }}
        data-wipe={at}
        data-zoom={zoom}
      >
        <Box
          sx={{
            position: 'relative',
            width: whole ? '100%' : size.width * (zoom as number),
            height: whole ? '100%' : size.height * (zoom as number),
          }}
        >
          <Box
            component="img"
            src={right}
            alt={names[1]}
            sx={picture}
            onLoad={(e) => setSize({ width: e.currentTarget.naturalWidth, height: e.currentTarget.naturalHeight })}
          />
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
        </Box>
      </Box>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 2, mt: 0.8 }}>
        <Box className="narrow" sx={{ fontSize: 12, maxWidth: 150, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
          {names[0]}
        </Box>
        <Slider
          aria-label="Where the two pictures meet"
          size="small"
          value={at}
          onChange={(_, v) => setAt(v as number)}
          track={false}
          sx={{ flex: 1 }}
        />
        <Box className="narrow" sx={{ fontSize: 12, maxWidth: 150, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
          {names[1]}
        </Box>
        <ToggleButtonGroup aria-label="Size of the pictures" value={zoom} onChange={(_, z: Zoom | null) => z && setZoom(z)}>
          {ZOOMS.map(([z, words]) => (
            <ToggleButton key={z} value={z}>
              {words}
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
      </Box>
    </Box>
  );
}
