import { instanceToPlain } from 'class-transformer';
import { InputError } from '../../errors';
import { checkedAs } from '../checked';
import type { CommandKind } from './command';

/** A change that another one holds. */
export type Plain = { type: string };

let find: (type: string) => CommandKind<Plain> | undefined = () => undefined;
/** Says how kinds are found: the list of all has those in it that hold others, so they can’t ask it from where they are. */
export function findKindsBy(by: typeof find): void {
  find = by;
}

/** The kind of a change inside another. @param not kinds that can’t be there @throws InputError when it is none */
export function kindInside(one: unknown, not: readonly string[]): CommandKind<Plain> {
  const type = (one as Partial<Plain> | null)?.type;
  const kind = typeof type === 'string' && !not.includes(type) ? find(type) : undefined;
  if (!kind) throw new InputError('command/inside', 'one of its changes is none.');
  return kind;
}

/** A change inside another as its own kind wants it, from a request. @throws InputError when it isn’t so */
export function checkedInside(one: unknown, not: readonly string[]): Plain {
  const kind = kindInside(one, not);
  if (kind.byServer) throw new InputError('command/inside', 'one of its changes is none.');
  const made = checkedAs(one, kind.shape, (sentence) => new InputError('command/inside', sentence), true);
  return JSON.parse(JSON.stringify(instanceToPlain(kind.cleaned ? kind.cleaned(made) : made))) as Plain;
}
