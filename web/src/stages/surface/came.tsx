'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { SLOTS, type Texturing } from '@wellmorph/core/surface/texturing';

/** That a material is textured as it came, by what; and the way to its plain numbers. */
export function Came({ texturing, onPlain }: { texturing: Texturing; onPlain(): void }) {
  const says = [...new Set(texturing.uses.map((u) => SLOTS[u.slot]))];
  return (
    <Box role="note" aria-label="textures it came with" sx={{ mb: 1 }}>
      <Box sx={{ fontSize: 13, mb: 0.6 }}>
        It has the pictures it came with, for {says.join(', ')}. They hold while its layout is kept; the numbers below are for when it
        isn’t.
      </Box>
      <Button variant="outlined" onClick={onPlain}>
        Take them off
      </Button>
    </Box>
  );
}
