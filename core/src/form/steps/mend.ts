import { turnOutward } from '../../inspect/fixes';
import { faceCount, vertexCount } from '../../mesh/polymesh';
import { weld } from '../../mesh/weld';
import { length, toggle } from '../fields';
import type { StepBase, StepKind } from '../step';

/** Welds points that coincide and turns faces outward. Lengths in mm. */
export interface MendStep extends StepBase {
  kind: 'mend';
  within: number;
  outward: boolean;
  keepSeam: boolean;
}

export const mend = {
  kind: 'mend',
  name: 'close up and turn outward',
  about: 'Joins points that stand in the same place, and turns every face to the outside.',
  fields: [
    length('within', 'Closed up within', { hint: '0: not' }),
    toggle('keepSeam', 'Openings stay seams'),
    toggle('outward', 'Turned outward'),
  ],
  fresh: () => ({ name: 'Close up', within: 0.01, keepSeam: false, outward: true }),
  words: (s: MendStep, length) => [s.within > 0 && `within ${length(s.within, 3)}`, s.outward && 'outward'].filter(Boolean).join(', '),
  changer: {
    change(step: MendStep, mesh) {
      const welded = step.within > 0 ? weld(mesh, { within: step.within, keepOpeningAsSeam: step.keepSeam }) : mesh;
      const out = step.outward ? turnOutward(welded) : welded;
      return {
        mesh: out,
        figures: [
          { label: 'points joined', value: vertexCount(mesh) - vertexCount(out), unit: '' },
          ...(faceCount(out) < faceCount(mesh)
            ? [{ label: 'faces that vanished', value: faceCount(mesh) - faceCount(out), unit: '' }]
            : []),
        ],
      };
    },
  },
} satisfies StepKind<MendStep>;
