import { Equals } from 'class-validator';
import { IsId, IsPlaces } from './checks';
import { type CommandKind, moved, movedWords, stepAt, stepNamed, stepsIn } from './command';

class StepMove {
  @Equals('step.move') type!: 'step.move';
  @IsId() part!: string;
  @IsId() step!: string;
  /** Places further down; up when negative. It goes no further than the list. */
  @IsPlaces() by!: number;
}

export const stepMove: CommandKind<StepMove> = {
  type: 'step.move',
  shape: StepMove,
  apply(d, { part, step, by }) {
    const list = stepsIn(d, part);
    moved(list, stepAt(list, step), by);
  },
  words: ({ part, step, by }, before) => `moved ${stepNamed(before, part, step)} ${movedWords(by)}`,
  touches: ({ part }) => [`part/${part}/order`],
};
