import { type Command, commandKind, isCommandType } from '@wellmorph/core/pipeline/commands/index';
import { instanceToPlain } from 'class-transformer';
import { database } from '../db/client';
import { touch } from '../db/results';
import { checked, RequestError } from './route';

/** A command checked against the shape of its kind. @throws RequestError 400 in one sentence */
export async function checkedCommand(plain: { type?: unknown }): Promise<Command> {
  const { type } = plain;
  const kind = isCommandType(type) ? commandKind(type) : null;
  if (!kind || kind.byServer) throw new RequestError(400, 'request/command', 'That is not a change this server knows.');
  const made = await checked(plain, kind.shape);
  // Through JSON, because a class's untouched fields may stand there as undefined and would overwrite what is stored.
  const command = JSON.parse(JSON.stringify(instanceToPlain(kind.cleaned ? kind.cleaned(made) : made))) as Command;
  const blobs = kind.blobs?.(command) ?? [];
  if (blobs.length > 0 && !(await touch(await database(), blobs)))
    throw new RequestError(400, 'request/blob', 'The file this change refers to is not stored here.');
  return command;
}
