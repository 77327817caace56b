import { type Axis, bend as bent, stretchOf } from '../../mesh/deform';
import { figure } from '../../units/lengths';
import { inscribedCount, inscribedError } from '../budget/chord';
import { axisField } from '../changers';
import { angle, length, place } from '../fields';
import { type Adaptive, countOf, type StepBase, type StepKind } from '../step';

/** Bends everything above it. Lengths in mm, angles in degrees. */
export interface BendStep extends StepBase {
  kind: 'bend';
  /** It runs along this axis … */
  axis: Axis;
  /** … and bends towards this one. */
  towards: Axis;
  degrees: number;
  /** The stretch that bends; all of it when both are the same. */
  from: number;
  to: number;
  /** Where lengths stay, along the axis it bends towards. */
  neutral: number;
  /** How far from there its outside lies: what the count of loops is reckoned with. */
  reach: number;
}

/** The radius its outside runs on, when the stretch is given. */
const outerOf = (s: BendStep): number => Math.abs((s.to - s.from || 100) / ((s.degrees * Math.PI) / 180)) + s.reach;

function loopsOf(s: BendStep): Adaptive {
  const turn = Math.abs((s.degrees * Math.PI) / 180);
  const minimum = Math.max(1, Math.ceil(turn / 1.6));
  return {
    key: `${s.id}.loops`,
    label: `loops along the ${figure(Math.abs(s.degrees), 0)}° bend`,
    minimum,
    errorMm: (n) => inscribedError(outerOf(s), n, turn),
    countFor: (e) => inscribedCount(outerOf(s), e, turn, minimum),
  };
}

export const bend = {
  kind: 'bend',
  name: 'bend',
  about: 'Bends everything above it by an angle over a stretch, the rest going on straight. Lengths along the neutral plane stay.',
  fields: [
    axisField('axis', 'Runs along'),
    axisField('towards', 'Bends towards'),
    angle('degrees', 'By'),
    place('from', 'From', { hint: 'all of it when equal' }),
    place('to', 'To'),
    place('neutral', 'Lengths stay at'),
    length('reach', 'Outside lies off by'),
  ],
  fresh: () => ({ name: 'Bend', axis: 'y' as const, towards: 'x' as const, degrees: 45, from: 0, to: 60, neutral: 0, reach: 10 }),
  words: (s: BendStep) => `${figure(s.degrees, 0)}° towards ${s.towards}`,
  changer: {
    adaptive: (step: BendStep) => (step.degrees === 0 ? [] : [loopsOf(step)]),
    change(step: BendStep, mesh, detail) {
      if (step.degrees === 0) return { mesh };
      const { from, to } = stretchOf(mesh, step.axis, step.from, step.to);
      const pieces = countOf(detail, loopsOf(step));
      const { axis, towards, neutral } = step;
      return { mesh: bent(mesh, { axis, towards, neutral, from, to, pieces, angle: (step.degrees * Math.PI) / 180 }) };
    },
  },
} satisfies StepKind<BendStep>;
