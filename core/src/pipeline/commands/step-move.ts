import { Equals, IsIn } from 'class-validator';
import { IsId } from './checks';
import { type CommandKind, stepAt, stepNamed, stepsIn } from './command';

class StepMove {
  @Equals('step.move') type!: 'step.move';
  @IsId() part!: string;
  @IsId() step!: string;
  @IsIn([-1, 1]) by!: -1 | 1;
}

export const stepMove: CommandKind<StepMove> = {
  type: 'step.move',
  shape: StepMove,
  apply(d, { part, step, by }) {
    const list = stepsIn(d, part);
    const i = stepAt(list, step);
    const j = i + by;
    if (j >= 0 && j < list.length) [list[i], list[j]] = [list[j], list[i]];
  },
  words: ({ part, step, by }, before) => `moved ${stepNamed(before, part, step)} ${by < 0 ? 'up' : 'down'}`,
  touches: ({ part }) => [`part/${part}/order`],
};
