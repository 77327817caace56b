import { Equals } from 'class-validator';
import { IsId } from './checks';
import { type CommandKind, stepAt, stepNamed, stepsIn } from './command';

class StepRemove {
  @Equals('step.remove') type!: 'step.remove';
  @IsId() part!: string;
  @IsId() step!: string;
}

export const stepRemove: CommandKind<StepRemove> = {
  type: 'step.remove',
  shape: StepRemove,
  apply(d, { part, step }) {
    const list = stepsIn(d, part);
    list.splice(stepAt(list, step), 1);
  },
  words: ({ part, step }, before) => `removed ${stepNamed(before, part, step)}`,
  touches: ({ part, step }) => [`part/${part}/step/${step}`],
};
