import { FormError } from '../../errors';
import { fair as faired } from '../../mesh/fair';
import { facesOf, regionField } from '../changers';
import { size } from '../fields';
import type { StepBase, StepKind } from '../step';

/** Smooths kinks of everything above it, within a distance. Lengths in mm. */
export interface FairStep extends StepBase {
  kind: 'fair';
  /** Farthest anything may move. */
  within: number;
  region?: string;
}

const DEGREES = 180 / Math.PI;
const PER_METRE = 1000;

export const fair = {
  kind: 'fair',
  name: 'fair',
  about:
    'Takes kinks out of a surface, so that lines of reflection run on: nothing moves farther than it is allowed; hard edges and rims stay.',
  fields: [size('within', 'Moves at most'), regionField()],
  fresh: () => ({ name: 'Fair', within: 0.2 }),
  words: (s: FairStep, length) => `within ${length(s.within, 2)}`,
  changer: {
    change(step: FairStep, mesh, _detail, around) {
      const made = faired(mesh, facesOf(step, mesh, around), step.within);
      if (made.free === 0)
        throw new FormError(
          'fair/none',
          `“${step.name}” finds nothing it may move: every point there lies on a hard edge, a rim, or the region’s border.`,
        );
      return {
        mesh: made.mesh,
        figures: [
          { label: 'moved by at most', value: made.movedMm, unit: 'mm' },
          { label: 'curvature jumps, was – is', value: made.stepBefore * PER_METRE, to: made.stepAfter * PER_METRE, unit: '1/m' },
          { label: 'sharpest turn, was – is', value: made.turnBefore * DEGREES, to: made.turnAfter * DEGREES, unit: '°' },
        ],
      };
    },
  },
} satisfies StepKind<FairStep>;
