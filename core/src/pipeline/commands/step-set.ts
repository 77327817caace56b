import { Equals, IsDefined } from 'class-validator';
import { checkStep, type Step } from '../../form/steps';
import { CheckedBy, IsId } from './checks';
import { type CommandKind, stepAt, stepsIn } from './command';
import { alike, sharedSteps } from './step-share';

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
    if (step.same === undefined) return;
    for (const shared of sharedSteps(d, step.same)) {
      const own = shared.list[shared.at];
      if (own.id !== step.id && own.kind === step.kind) shared.list[shared.at] = alike(own, step);
    }
  },
  words: ({ step }) => `changed ${step.name}`,
  touches: ({ part, step }) => [`part/${part}/step/${step.id}`, ...(step.same === undefined ? [] : [`same/${step.same}`])],
};
