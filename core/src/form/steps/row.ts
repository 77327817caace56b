import { translation } from '../../maths/mat4';
import { place, toggle, whole } from '../fields';
import { type Hand, handFields } from '../hand';
import type { StepBase, StepKind } from '../step';

/** Copies of everything before it in the part, one after the other at a pitch. Copies share mesh and texels. */
export interface RowStep extends StepBase, Hand {
  kind: 'row';
  count: number;
  /** Made part of the mesh, so that later steps work on all of them. */
  applied?: boolean;
  /** From one copy to the next, mm. */
  dx: number;
  dy: number;
  dz: number;
}

export const row = {
  kind: 'row',
  name: 'row of copies',
  about: 'Copies of everything above it, in a straight row at an equal pitch.',
  fields: [
    whole('count', 'Copies', 1, 500),
    place('dx', 'Pitch x'),
    place('dy', 'Pitch y'),
    place('dz', 'Pitch z'),
    toggle('applied', 'Made into one mesh', { optional: true }),
    ...handFields(true),
  ],
  fresh: () => ({ name: 'Row', count: 4, dx: 0, dy: 30, dz: 0 }),
  words: (s: RowStep, length) => `${s.count} at ${length(Math.hypot(s.dx, s.dy, s.dz), 1)}`,
  copies: (step: RowStep) => Array.from({ length: step.count }, (_, i) => translation([i * step.dx, i * step.dy, i * step.dz])),
} satisfies StepKind<RowStep>;
