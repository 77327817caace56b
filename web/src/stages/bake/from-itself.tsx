'use client';

import Button from '@mui/material/Button';
import { useSession } from '@/session/context';
import { runBake } from '@/stages/bake/run';
import type { GpuPart } from '@/workers/protocol';

/** Edges of a thing this many times as large as their radius look made, not cut: common practice, no source. */
const OF_SIZE = 200;

/** A radius to round the edges of a piece by, from the size of its largest part: mm, in two figures. */
export function roundedBy(gpu: readonly GpuPart[]): number {
  let largest = 0;
  for (const { position } of gpu) {
    const [min, max] = [
      [Infinity, Infinity, Infinity],
      [-Infinity, -Infinity, -Infinity],
    ];
    for (let i = 0; i < position.length; i++) {
      min[i % 3] = Math.min(min[i % 3], position[i]);
      max[i % 3] = Math.max(max[i % 3], position[i]);
    }
    if (position.length > 0) largest = Math.max(largest, Math.hypot(...max.map((x, k) => x - min[k])));
  }
  return largest > 0 ? Math.max(0.05, Number((largest / OF_SIZE).toPrecision(2))) : 0;
}

/** Bakes a piece without any high mesh from its own parts, with their hard edges rounded. */
export function FromItself({ radius, disabled }: { radius: number; disabled: boolean }) {
  const session = useSession();
  const start = () => {
    const now = session.document?.bake;
    if (!now) return;
    const patch = { itself: true, ...(now.roundMm === 0 && { roundMm: radius }) };
    if (session.dispatch({ type: 'bake.set', patch })) void runBake(session);
  };
  return (
    <Button variant="contained" disabled={disabled} onClick={start}>
      Bake from itself
    </Button>
  );
}
