import { Equals, IsDefined } from 'class-validator';
import { checkStep, type Step } from '../../form/steps';
import { CheckedBy, IsId } from './checks';
import { type CommandKind, stepAt, stepsIn } from './command';

class StepSet {
  @Equals('step.set') type!: 'step.set';
  @IsId() part!: string;
  @IsDefined() @CheckedBy(checkStep) step!: Step;
}

export const stepSet: CommandKind<StepSet> = {
  type: 'step.set',
  shape: StepSet,
  cleaned: (c) => ({ ...c, step: checkStep(c.step) }),
  apply(d, { part, step }) {
    const list = stepsIn(d, part);
    list[stepAt(list, step.id)] = step;
  },
  words: ({ step }) => `changed ${step.name}`,
  touches: ({ part, step }) => [`part/${part}/step/${step.id}`],
};
