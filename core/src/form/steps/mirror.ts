import { IDENTITY, type Mat4 } from '../../maths/mat4';
import { axisField } from '../changers';
import { length, place, toggle } from '../fields';
import type { StepBase, StepKind } from '../step';

/** Everything above it and its mirror image. */
export interface MirrorStep extends StepBase {
  kind: 'mirror';
  axis: 'x' | 'y' | 'z';
  at: number;
  /** Made part of the mesh, so that later steps work on both; a live one shares mesh and texels. */
  applied: boolean;
  /** Points nearer than this are joined, when it is applied. */
  weld: number;
}

/** Reflection in the plane across an axis at a place. */
export function reflection(axis: 'x' | 'y' | 'z', at: number): Mat4 {
  const k = { x: 0, y: 1, z: 2 }[axis];
  const m = [...IDENTITY];
  m[5 * k] = -1;
  m[12 + k] = 2 * at;
  return m;
}

export const mirror = {
  kind: 'mirror',
  name: 'mirror',
  about: 'Everything above it and its mirror image: live, sharing texels, or made into one mesh and closed up along the plane.',
  fields: [
    axisField('axis', 'Across'),
    place('at', 'Plane at'),
    toggle('applied', 'Made into one mesh'),
    length('weld', 'Closed up within', { when: (s) => s.applied === true }),
  ],
  fresh: () => ({ name: 'Mirror', axis: 'x' as const, at: 0, applied: true, weld: 0.01 }),
  words: (s: MirrorStep, length) => `across ${s.axis} at ${length(s.at, 1)}`,
  copies: (s: MirrorStep) => [IDENTITY, reflection(s.axis, s.at)],
} satisfies StepKind<MirrorStep>;
