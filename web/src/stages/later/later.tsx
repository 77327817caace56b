'use client';

import Box from '@mui/material/Box';
import { Piece, PlateWords } from '@/plates/plate';
import { Columns } from '@/sheet/columns';
import { Heading } from '@/sheet/fields';
import { useMaterials } from '@/sheet/materials';
import { useSheet } from '@/sheet/state';
import type { Station } from '@/sheet/stations';

const WORDS: Partial<Record<Station, [string, string]>> = {
  surface: ['Surface', 'Materials in layers, with masks from the baked maps, composed at any size.'],
  light: ['Light', 'Lamp power, framing and depth of field solved in metres and watts.'],
  render: ['Render', 'A path tracer with a forecast of noise and minutes before it starts.'],
  'hand-off': [
    'Hand-off',
    'One archive with everything and a check over all stages. Until then the Bake stage exports the GLB with its maps.',
  ],
};

/** A station that is not part of Wellmorph yet, said plainly. */
export function LaterStage({ station }: { station: Station }) {
  const [name, what] = WORDS[station] ?? ['', ''];
  const form = useSheet((s) => s.form);
  const materialOf = useMaterials();
  return (
    <Columns
      controls={
        <Box sx={{ px: 1.8 }}>
          <Heading>{name}</Heading>
          <Box sx={{ color: 'text.secondary', mt: 1 }}>There is nothing to set here yet.</Box>
        </Box>
      }
      plate={
        form && form.gpu.length > 0 ? <Piece gpu={form.gpu} materialOf={materialOf} /> : <PlateWords>Form the piece first.</PlateWords>
      }
      aside={
        <>
          <Heading>{name} is not there yet</Heading>
          <Box sx={{ mt: 1 }}>{what}</Box>
          <Box sx={{ mt: 1.5, color: 'text.secondary' }}>
            It comes with the next part of Wellmorph. Everything made so far stays as it is.
          </Box>
        </>
      }
    />
  );
}
