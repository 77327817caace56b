import { type Axis, stretchOf, taper as tapered } from '../../mesh/deform';
import { figure } from '../../units/lengths';
import { axisField } from '../changers';
import { place, plain } from '../fields';
import type { StepBase, StepKind } from '../step';

/** Makes everything above it narrower or wider along an axis. Lengths in mm. */
export interface TaperStep extends StepBase {
  kind: 'taper';
  axis: Axis;
  factor: number;
  from: number;
  to: number;
  /** The line it narrows to, on the two axes that follow. */
  aboutA: number;
  aboutB: number;
}

export const taper = {
  kind: 'taper',
  name: 'narrow',
  about: 'Narrows or widens everything above it along an axis, from one place to another; straight lines stay straight.',
  fields: [
    axisField('axis', 'Along'),
    plain('factor', 'Size at the end', 0.01, 100, { hint: '1: as it is' }),
    place('from', 'From', { hint: 'all of it when equal' }),
    place('to', 'To'),
    place('aboutA', 'Towards, first axis'),
    place('aboutB', 'Towards, second axis'),
  ],
  fresh: () => ({ name: 'Narrow', axis: 'y' as const, factor: 0.8, from: 0, to: 0, aboutA: 0, aboutB: 0 }),
  words: (s: TaperStep) => `to ${figure(100 * s.factor, 0)} % along ${s.axis}`,
  changer: {
    change(step: TaperStep, mesh) {
      const { from, to } = stretchOf(mesh, step.axis, step.from, step.to);
      return { mesh: tapered(mesh, { axis: step.axis, from, to, pieces: 1, factor: step.factor, about: [step.aboutA, step.aboutB] }) };
    },
  },
} satisfies StepKind<TaperStep>;
