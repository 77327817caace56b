'use client';

import Box from '@mui/material/Box';
import { useEffect, useRef } from 'react';

/** Pixels as they come, drawn as large as the plate allows. */
export function Pixels({
  rgba,
  width,
  height,
  label,
}: {
  rgba: Uint8ClampedArray<ArrayBuffer> | null;
  width: number;
  height: number;
  label: string;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const context = canvas.current?.getContext('2d');
    if (context && rgba && rgba.length === 4 * width * height) context.putImageData(new ImageData(rgba, width, height), 0, 0);
  }, [rgba, width, height]);
  return (
    <Frame width={width} height={height}>
      <canvas
        ref={canvas}
        width={width}
        height={height}
        role="img"
        aria-label={label}
        style={{ width: '100%', height: '100%', display: 'block' }}
      />
    </Frame>
  );
}

export function Frame({ width, height, children }: { width: number; height: number; children: React.ReactNode }) {
  return (
    <Box sx={{ position: 'absolute', inset: '48px 18px 34px', display: 'grid', placeItems: 'center', containerType: 'size' }}>
      <Box
        sx={{
          width: `min(100cqw, calc(100cqh * ${width / height}))`,
          aspectRatio: `${width} / ${height}`,
          border: 1,
          borderColor: 'divider',
          // What is clear shows as a light check.
          background: 'repeating-conic-gradient(var(--check, rgba(0,0,0,.05)) 0% 25%, transparent 0% 50%) 0 0 / 16px 16px',
        }}
      >
        {children}
      </Box>
    </Box>
  );
}
