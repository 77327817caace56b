'use client';

import Box from '@mui/material/Box';
import { memo, useRef, useState } from 'react';
import { usePalette } from '@/theme/theme';
import type { IslandPath } from '@/workers/protocol';

/** The layout as it will be painted: islands in the tile, the chosen one marked. Wheel to come nearer, drag to slide. */
export const LayoutPlate = memo(function LayoutPlate({
  islands,
  selected,
  onPick,
  picture,
}: {
  islands: readonly IslandPath[];
  selected: { part: string; island: number } | null;
  onPick(part: string, island: number): void;
  picture?: string;
}) {
  const c = usePalette();
  const [view, setView] = useState({ x: -0.03, y: -0.03, size: 1.06 });
  const drag = useRef<{ x: number; y: number; view: typeof view; moved: boolean } | null>(null);
  const box = useRef<SVGSVGElement>(null);
  const unit = () => view.size / Math.min(box.current?.clientWidth ?? 1, box.current?.clientHeight ?? 1);
  return (
    <Box sx={{ position: 'absolute', inset: '50px 16px 34px', display: 'grid', placeItems: 'center' }} data-plate="layout">
      <svg
        ref={box}
        role="img"
        aria-label={`Layout of ${islands.length} islands`}
        viewBox={`${view.x} ${view.y} ${view.size} ${view.size}`}
        width="100%"
        height="100%"
        style={{ touchAction: 'none' }}
        onWheel={(e) => {
          const size = Math.min(1.4, Math.max(0.05, view.size * 1.0012 ** e.deltaY));
          const k = (view.size - size) / 2;
          setView({ x: view.x + k, y: view.y + k, size });
        }}
        onPointerDown={(e) => {
          drag.current = { x: e.clientX, y: e.clientY, view, moved: false };
        }}
        onPointerMove={(e) => {
          const d = drag.current;
          if (!d || e.buttons === 0) return;
          if (Math.abs(e.clientX - d.x) + Math.abs(e.clientY - d.y) > 4) d.moved = true;
          if (d.moved) setView({ ...d.view, x: d.view.x - (e.clientX - d.x) * unit(), y: d.view.y - (e.clientY - d.y) * unit() });
        }}
      >
        <rect x="0" y="0" width="1" height="1" fill={c.background.paper} stroke={c.sheet.muted} strokeWidth={0.002 * view.size} />
        {picture && (
          <image href={picture} x="0" y="0" width="1" height="1" style={{ imageRendering: view.size < 0.4 ? 'pixelated' : 'auto' }} />
        )}
        {islands.map((i) => {
          const chosen = selected?.part === i.part && selected.island === i.island;
          return (
            <path
              key={`${i.part}/${i.island}`}
              d={i.path}
              fill={chosen ? c.primary.main : picture ? 'transparent' : c.sheet.tint}
              fillOpacity={chosen ? 0.6 : 1}
              stroke={chosen ? c.primary.main : picture ? 'none' : c.sheet.muted}
              strokeWidth={(chosen ? 0.0025 : 0.0008) * view.size}
              style={{ cursor: 'pointer' }}
              data-island={`${i.part}/${i.island}`}
              onClick={() => !drag.current?.moved && onPick(i.part, i.island)}
            />
          );
        })}
      </svg>
    </Box>
  );
});
