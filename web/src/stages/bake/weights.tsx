'use client';

import Box from '@mui/material/Box';
import type { BakeFigures, BakeFile } from '@wellmorph/core/pipeline/bake';
import { figure } from '@wellmorph/core/units/lengths';
import { Heading } from '@/sheet/fields';
import { FigureRow } from '../unwrap/figure-row';
import { MAP_NAMES } from './shown';

const megabytes = (bytes: number) => figure(bytes / 1e6, bytes < 1e6 ? 2 : 1);
/** All smaller levels of a texture come to a third of it. */
const LEVELS = 4 / 3;
/** Bytes a texel: plain, of 8 and of 16 bits in four channels; in blocks of 4 × 4 texels in 16 bytes (BC5, BC7: Khronos Data Format Specification 1.3). */
const PLAIN = { 8: 4, 16: 8 } as const;
const BLOCKS = 1;

/** What each map weighs, on disk and on the graphics card. */
export function Weights({ figures: { bytes = {} }, size, bits }: { figures: BakeFigures; size: number; bits: 8 | 16 }) {
  const rows = MAP_NAMES.flatMap(([file, name]) => {
    const exr = bytes[`${file}Exr` as BakeFile];
    const own = bytes[file];
    return own && file !== 'judged' ? [{ file, name, words: exr ? `${megabytes(own)} · EXR ${megabytes(exr)}` : megabytes(own) }] : [];
  });
  if (rows.length === 0) return null;
  const card = (each: number) => megabytes(each * size * size * LEVELS);
  return (
    <Box sx={{ mt: 2 }}>
      <Heading aside="as PNG">What the maps weigh</Heading>
      {rows.map((r) => (
        <FigureRow key={r.file} label={r.name} value={r.words} unit="MB" />
      ))}
      <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary', mt: 0.5 }}>
        On the graphics card, with all smaller levels, each takes {card(PLAIN[8])} MB plain
        {bits === 16 ? ` (${card(PLAIN[16])} MB with 16 bits)` : ''} or {card(BLOCKS)} MB in blocks.
      </Box>
    </Box>
  );
}
