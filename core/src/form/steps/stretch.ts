import { type Axis, lengthen, stretchOf } from '../../mesh/deform';
import { figure } from '../../units/lengths';
import { axisField } from '../changers';
import { place, plain, toggle, whole } from '../fields';
import type { StepBase, StepKind } from '../step';

/** Makes a stretch of everything above it longer or shorter. Lengths in mm. */
export interface StretchStep extends StepBase {
  kind: 'stretch';
  axis: Axis;
  factor: number;
  from: number;
  to: number;
  keepVolume: boolean;
  loops: number;
  aboutA: number;
  aboutB: number;
}

const thinned = (s: Record<string, unknown>) => s.keepVolume === true;
export const stretch = {
  kind: 'stretch',
  name: 'lengthen',
  about: 'Makes a length of everything above it longer or shorter; what lies beyond moves along. Thinner as it grows, if wanted.',
  fields: [
    axisField('axis', 'Along'),
    plain('factor', 'Times as long', 0.01, 100),
    place('from', 'From', { hint: 'all of it when equal' }),
    place('to', 'To'),
    toggle('keepVolume', 'Thinner as it grows'),
    whole('loops', 'Loops along it', 1, 200, { when: thinned }),
    place('aboutA', 'Middle at, first', { when: thinned }),
    place('aboutB', 'Middle at, second', { when: thinned }),
  ],
  fresh: () => ({ name: 'Lengthen', axis: 'y' as const, factor: 1.2, from: 0, to: 0, keepVolume: false, loops: 8, aboutA: 0, aboutB: 0 }),
  words: (s: StretchStep) => `× ${figure(s.factor, 2)} along ${s.axis}`,
  changer: {
    change(step: StretchStep, mesh) {
      const { from, to } = stretchOf(mesh, step.axis, step.from, step.to);
      const { axis, factor, keepVolume } = step;
      return {
        mesh: lengthen(mesh, {
          axis,
          from,
          to,
          factor,
          keepVolume,
          pieces: keepVolume ? step.loops : 1,
          about: [step.aboutA, step.aboutB],
        }),
      };
    },
  },
} satisfies StepKind<StretchStep>;
