import { checkRegion, checkSeams } from '@wellmorph/core/form/regions';
import { checkStep } from '@wellmorph/core/form/steps/index';
import type { Command } from '@wellmorph/core/pipeline/commands';
import { instanceToPlain } from 'class-transformer';
import { hasBlob } from '../blobs/store';
import { checked, RequestError } from './route';
import {
  COMMANDS,
  CountsCommand,
  HighShape,
  MeshCommand,
  PairCommand,
  PartAddCommand,
  ReferenceCommand,
  RegionCommand,
  SeamsCommand,
  StepWriteCommand,
} from './shapes';

/** A command checked against the class of its kind. @throws RequestError 400 in one sentence */
export async function checkedCommand(plain: { type?: unknown }): Promise<Command> {
  const type = plain.type;
  if (typeof type !== 'string' || !Object.hasOwn(COMMANDS, type))
    throw new RequestError(400, 'request/command', 'That is not a change this server knows.');
  const made = await checked(plain, COMMANDS[type as keyof typeof COMMANDS] as new () => object);
  if (made instanceof CountsCommand) {
    const counts = Object.values(made.counts);
    if (counts.length > 5000 || counts.some((n) => !Number.isInteger(n) || n < 1 || n > 4096))
      throw new RequestError(400, 'request/counts', 'Counts are whole numbers from 1 to 4096.');
  }
  const blob =
    made instanceof MeshCommand
      ? made.low.blob
      : made instanceof PairCommand && made.high instanceof HighShape
        ? made.high.blob
        : made instanceof ReferenceCommand
          ? made.reference.blob
          : null;
  if (blob && !(await hasBlob(blob))) throw new RequestError(400, 'request/blob', 'The file this change refers to is not stored here.');
  // Steps and regions as their descriptions know them: what those don't name is not stored.
  if (made instanceof StepWriteCommand) made.step = checkStep(made.step);
  if (made instanceof PartAddCommand) made.part.shape.steps = made.part.shape.steps.map(checkStep);
  if (made instanceof RegionCommand) made.region = checkRegion(made.region);
  if (made instanceof SeamsCommand) made.seams = checkSeams(made.seams);
  // Through JSON, because a class's untouched fields may stand there as undefined and would overwrite what is stored.
  return JSON.parse(JSON.stringify(instanceToPlain(made))) as Command;
}
