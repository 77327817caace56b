import Box from '@mui/material/Box';
import type { Px } from '@wellmorph/core/photo/match';
import { useLayoutEffect, useRef } from 'react';
import { usePalette } from '@/theme/theme';
import type { PhotoPyramid } from './pyramid';

const SIDE = 148;
/** Plate px for each of the photograph’s. */
const NEAR = 6;

/** What lies under the handle that is held, six times as large, with a cross where it points. */
export function Loupe({ pyramid, at: [x, y] }: { pyramid: PhotoPyramid; at: Px }) {
  const c = usePalette();
  const canvas = useRef<HTMLCanvasElement>(null);
  useLayoutEffect(() => {
    const context = canvas.current?.getContext('2d');
    if (!context) return;
    context.clearRect(0, 0, SIDE, SIDE);
    const half = SIDE / 2 / NEAR;
    pyramid.draw(context, { x: x - half, y: y - half, scale: NEAR }, SIDE, SIDE);
    context.strokeStyle = c.sheet.paper;
    context.lineWidth = 1;
    context.beginPath();
    for (const [ax, ay, bx, by] of [
      [0, SIDE / 2, SIDE / 2 - 8, SIDE / 2],
      [SIDE / 2 + 8, SIDE / 2, SIDE, SIDE / 2],
      [SIDE / 2, 0, SIDE / 2, SIDE / 2 - 8],
      [SIDE / 2, SIDE / 2 + 8, SIDE / 2, SIDE],
    ]) {
      context.moveTo(ax, ay);
      context.lineTo(bx, by);
    }
    context.stroke();
  });
  return (
    <Box
      aria-hidden="true"
      sx={{
        position: 'absolute',
        right: 16,
        top: 60,
        width: SIDE,
        height: SIDE,
        border: 2,
        borderColor: 'sheet.ink',
        borderRadius: '50%',
        overflow: 'hidden',
        pointerEvents: 'none',
        bgcolor: 'sheet.plate',
      }}
    >
      <canvas ref={canvas} width={SIDE} height={SIDE} style={{ display: 'block' }} />
    </Box>
  );
}
