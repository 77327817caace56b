import { instanceToPlain } from 'class-transformer';
import { ArrayMaxSize, ArrayMinSize, Equals, IsArray, IsString, Length } from 'class-validator';
import { InputError } from '../../errors';
import { checkedAs } from '../checked';
import { CheckedBy } from './checks';
import type { CommandKind } from './command';

type Plain = { type: string };

class Several {
  @Equals('several') type!: 'several';
  /** What they do together, for the history. */
  @IsString() @Length(1, 200) what!: string;
  @IsArray() @ArrayMinSize(1) @ArrayMaxSize(2000) @CheckedBy(each) commands!: Plain[];
}

let kindOf: (type: string) => CommandKind<Plain> | undefined = () => undefined;
/** Says how kinds are found that can be among several: the list of them has this one in it, so it can't be asked from here. */
export function among(find: typeof kindOf): void {
  kindOf = find;
}

function kindOfOne(one: unknown): CommandKind<Plain> {
  const type = (one as Partial<Plain> | null)?.type;
  const kind = typeof type === 'string' && type !== 'several' ? kindOf(type) : undefined;
  if (!kind || kind.byServer) throw new InputError('command/several', 'one of its changes is none.');
  return kind;
}
function checked(one: unknown): Plain {
  const kind = kindOfOne(one);
  const made = checkedAs(one, kind.shape, (sentence) => new InputError('command/several', sentence), true);
  return JSON.parse(JSON.stringify(instanceToPlain(kind.cleaned ? kind.cleaned(made) : made))) as Plain;
}
/** @throws InputError for the first that isn't as its own kind wants it */
function each(list: unknown): Plain[] {
  if (!Array.isArray(list)) throw new InputError('command/several', 'changes have to be a list.');
  return list.map(checked);
}

/** Changes that are made, and taken back, as one: a fix of one kind on many parts. */
export const several: CommandKind<Several> = {
  type: 'several',
  shape: Several,
  cleaned: ({ type, what, commands }) => ({ type, what, commands: each(commands) }),
  blobs: ({ commands }) => commands.flatMap((c) => kindOfOne(c).blobs?.(c) ?? []),
  apply(d, { commands }) {
    for (const c of commands) kindOfOne(c).apply(d, c);
  },
  words: ({ what }) => what,
  touches: ({ commands }) => commands.flatMap((c) => kindOfOne(c).touches(c)),
};
