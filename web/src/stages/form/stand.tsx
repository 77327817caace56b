'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { mapVec } from '@wellmorph/core/maths/vec3';
import type { Part } from '@wellmorph/core/pipeline/document';
import { boundsOf } from '@/plates/view';
import { useSession, useSheet } from '@/session/context';
import { Choice } from '@/sheet/fields';
import { FitPanel } from './fit';
import { setPartsDown } from './set-down';

/** Ways a part can be set against another. */
const ALIGN = {
  above: 'standing on it',
  below: 'under it',
  middle: 'in its middle',
  left: 'against its left side',
  right: 'against its right side',
  front: 'against its front',
  back: 'against its back',
} as const;

/** Moves a part where it is wanted by what was measured: down to the floor, or against another part. */
export function Stand({ part }: { part: Part }) {
  const session = useSession();
  const gpu = useSheet((s) => s.form?.gpu);
  const parts = useSheet((s) => s.document?.parts);
  const own = gpu?.filter((g) => g.id === part.id);
  if (!gpu || !parts || !own || own.length === 0) return null;
  const box = boundsOf(own);
  const by = (d: readonly [number, number, number]) =>
    session.dispatch({
      type: 'part.set',
      part: part.id,
      patch: { move: mapVec(part.move, (x, k) => Math.round((x + d[k]) * 1e6) / 1e6) },
    });
  const align = (value: string) => {
    const [id, how] = value.split(':') as [string, keyof typeof ALIGN];
    const other = boundsOf(gpu.filter((g) => g.id === id));
    const middle = (b: typeof box, k: 'x' | 'y' | 'z') => (b.min[k] + b.max[k]) / 2;
    const centred = (k: 'x' | 'y' | 'z') => middle(other, k) - middle(box, k);
    const d: Record<keyof typeof ALIGN, [number, number, number]> = {
      above: [centred('x'), other.max.y - box.min.y, centred('z')],
      below: [centred('x'), other.min.y - box.max.y, centred('z')],
      middle: [centred('x'), centred('y'), centred('z')],
      left: [other.min.x - box.max.x, 0, centred('z')],
      right: [other.max.x - box.min.x, 0, centred('z')],
      front: [centred('x'), 0, other.max.z - box.min.z],
      back: [centred('x'), 0, other.min.z - box.max.z],
    };
    by(d[how]);
  };
  const whole = boundsOf(gpu);
  const foot = [-(whole.min.x + whole.max.x) / 2, -whole.min.y, -(whole.min.z + whole.max.z) / 2] as const;
  const isCentred = foot.every((x) => Math.abs(x) < 1e-4);
  const others = parts.filter((p) => p.id !== part.id && gpu.some((g) => g.id === p.id));
  return (
    <Box sx={{ mt: 0.4 }}>
      <Button variant="outlined" sx={{ mr: 0.8 }} disabled={Math.abs(box.min.y) < 1e-4} onClick={() => by([0, -box.min.y, 0])}>
        Seat on the floor
      </Button>
      <Button
        variant="outlined"
        sx={{ mr: 0.8 }}
        title="Lets it down onto what is under it until it lies still"
        onClick={() => void setPartsDown(session, [part.id], part.name)}
      >
        Set down
      </Button>
      <Button
        variant="outlined"
        sx={{ mt: 0.8 }}
        disabled={isCentred}
        title="Moves all parts so that the middle of the piece’s foot is its origin"
        onClick={() => session.dispatch({ type: 'parts.move', by: mapVec(foot, (x) => Math.round(x * 1e6) / 1e6) })}
      >
        Seat the piece
      </Button>
      {others.length > 0 && (
        <Choice
          label="Set against"
          value={'' as string}
          choices={[
            ['', 'choose …'],
            ...others.flatMap((p) => Object.entries(ALIGN).map(([how, words]) => [`${p.id}:${how}`, `${p.name}: ${words}`] as const)),
          ]}
          onChange={(v) => v && align(v)}
        />
      )}
      {others.length > 0 && <FitPanel part={part} />}
    </Box>
  );
}
