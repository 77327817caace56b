import { Equals, IsDefined } from 'class-validator';
import { InputError } from '../../errors';
import { checkStep, kindOf, type Step, stepName } from '../../form/steps';
import { CheckedBy, IsId, Maybe } from './checks';
import { type CommandKind, partIn, partName, stepAt, stepsIn } from './command';

class StepAdd {
  @Equals('step.add') type!: 'step.add';
  @IsId() part!: string;
  @IsDefined() @CheckedBy(checkStep) step!: Step;
  /** Right after this one; at the end when absent. */
  @Maybe() @IsId() after?: string;
}

export const stepAdd: CommandKind<StepAdd> = {
  type: 'step.add',
  shape: StepAdd,
  cleaned: (c) => ({ ...c, step: checkStep(c.step) }),
  apply(d, { part, step, after }) {
    const list = stepsIn(d, part);
    if (d.parts.some((p) => p.shape.steps?.some((s) => s.id === step.id)))
      throw new InputError('command/id', 'A step with that id is there already.');
    const host = partIn(d, part);
    if (kindOf(step.kind).maker && host.shape.kind === 'mesh')
      throw new InputError(
        'command/recipe',
        `“${host.name}” was imported: steps can change it; a step that makes something goes into a part of its own.`,
      );
    list.splice(after === undefined ? list.length : stepAt(list, after) + 1, 0, step);
  },
  words: ({ part, step }, before) => `added the step ${stepName(step.kind)} to ${partName(before, part)}`,
  touches: ({ part, step }) => [`part/${part}/step/${step.id}`],
};
