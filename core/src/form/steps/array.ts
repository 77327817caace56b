import { multiply, rotation, translation } from '../../maths/mat4';
import { angle, place, toggle, whole } from '../fields';
import { type Hand, handFields } from '../hand';
import type { StepBase, StepKind } from '../step';

/** Copies of everything before it in the part, turned round the y axis through (x, z). Copies share mesh and texels. */
export interface ArrayStep extends StepBase, Hand {
  kind: 'array';
  count: number;
  /** Made part of the mesh, so that later steps work on all of them. */
  applied?: boolean;
  x: number;
  z: number;
  /** Angle of the first copy, degrees. */
  startDegrees: number;
}

export const array = {
  kind: 'array',
  name: 'array round an axis',
  about: 'Copies of everything above it, turned round an upright axis at equal angles.',
  fields: [
    whole('count', 'Copies', 1, 500),
    angle('startDegrees', 'First at'),
    place('x', 'Axis at x'),
    place('z', 'Axis at z'),
    toggle('applied', 'Made into one mesh', { optional: true }),
    ...handFields(true),
  ],
  // Three copies at 120°: common practice, no source.
  fresh: () => ({ name: 'Array', count: 3, x: 0, z: 0, startDegrees: 0 }),
  words: (s: ArrayStep) => `${s.count} round the axis`,
  copies: (step: ArrayStep) =>
    Array.from({ length: step.count }, (_, i) => {
      const turn = (step.startDegrees * Math.PI) / 180 + (2 * Math.PI * i) / step.count;
      return multiply(translation([step.x, 0, step.z]), multiply(rotation([0, 1, 0], turn), translation([-step.x, 0, -step.z])));
    }),
} satisfies StepKind<ArrayStep>;
