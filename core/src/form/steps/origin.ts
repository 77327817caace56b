import { translation } from '../../maths/mat4';
import { boundsOf } from '../../mesh/measures';
import { transform } from '../../mesh/transform';
import { choice } from '../fields';
import type { StepBase, StepKind } from '../step';

/** Moves everything above it so that the part's own origin lies where it is wanted. */
export interface OriginStep extends StepBase {
  kind: 'origin';
  to: 'foot' | 'centre' | 'top' | 'back';
}

const PLACES = [
  ['foot', 'middle of its foot'],
  ['centre', 'middle of it all'],
  ['top', 'middle of its top'],
  ['back', 'middle of its back, at the foot'],
] as const;

export const origin = {
  kind: 'origin',
  name: 'origin',
  about: 'Moves everything above it so that the part’s origin is the middle of its foot, of all of it, of its top or of its back.',
  fields: [choice('to', 'Origin', PLACES)],
  fresh: () => ({ name: 'Origin', to: 'foot' as const }),
  words: (s: OriginStep) => PLACES.find(([k]) => k === s.to)?.[1] ?? '',
  changer: {
    change(step: OriginStep, mesh) {
      const { min, max } = boundsOf(mesh);
      const middle = min.map((x, k) => (x + max[k]) / 2);
      const at = [
        middle[0],
        step.to === 'centre' ? middle[1] : step.to === 'top' ? max[1] : min[1],
        step.to === 'back' ? min[2] : middle[2],
      ] as const;
      return {
        mesh: transform(mesh, translation([-at[0], -at[1], -at[2]])),
        figures: at.map((x, k) => ({ label: `moved along ${'xyz'[k]}`, value: -x, unit: 'mm' })),
      };
    },
  },
} satisfies StepKind<OriginStep>;
