import { type Axis, stretchOf, twist as twisted } from '../../mesh/deform';
import { figure } from '../../units/lengths';
import { inscribedCount, inscribedError } from '../budget/chord';
import { axisField } from '../changers';
import { angle, length, place } from '../fields';
import { type Adaptive, countOf, type StepBase, type StepKind } from '../step';

/** Twists everything above it about an axis. Lengths in mm, angles in degrees. */
export interface TwistStep extends StepBase {
  kind: 'twist';
  axis: Axis;
  degrees: number;
  from: number;
  to: number;
  aboutA: number;
  aboutB: number;
  /** How far its outside lies from the axis: what the count of loops is reckoned with. */
  reach: number;
}

function loopsOf(s: TwistStep): Adaptive {
  const turn = Math.abs((s.degrees * Math.PI) / 180);
  const minimum = Math.max(1, Math.ceil(turn / 1.05));
  return {
    key: `${s.id}.loops`,
    label: `loops along the ${figure(Math.abs(s.degrees), 0)}° twist`,
    minimum,
    errorMm: (n) => inscribedError(s.reach, n, turn),
    countFor: (e) => inscribedCount(s.reach, e, turn, minimum),
  };
}

export const twist = {
  kind: 'twist',
  name: 'twist',
  about: 'Turns everything above it about an axis, nothing at one end of a stretch and all of the angle at the other.',
  fields: [
    axisField('axis', 'About'),
    angle('degrees', 'By', { min: -3600, max: 3600 }),
    place('from', 'From', { hint: 'all of it when equal' }),
    place('to', 'To'),
    place('aboutA', 'Axis at, first'),
    place('aboutB', 'Axis at, second'),
    length('reach', 'Outside lies off by'),
  ],
  fresh: () => ({ name: 'Twist', axis: 'y' as const, degrees: 90, from: 0, to: 0, aboutA: 0, aboutB: 0, reach: 10 }),
  words: (s: TwistStep) => `${figure(s.degrees, 0)}° about ${s.axis}`,
  changer: {
    adaptive: (step: TwistStep) => (step.degrees === 0 ? [] : [loopsOf(step)]),
    change(step: TwistStep, mesh, detail) {
      if (step.degrees === 0) return { mesh };
      const { from, to } = stretchOf(mesh, step.axis, step.from, step.to);
      const pieces = countOf(detail, loopsOf(step));
      return {
        mesh: twisted(mesh, {
          axis: step.axis,
          from,
          to,
          pieces,
          angle: (step.degrees * Math.PI) / 180,
          about: [step.aboutA, step.aboutB],
        }),
      };
    },
  },
} satisfies StepKind<TwistStep>;
