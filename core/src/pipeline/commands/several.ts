import { ArrayMaxSize, ArrayMinSize, Equals, IsArray, IsString, Length } from 'class-validator';
import { InputError } from '../../errors';
import { CheckedBy } from './checks';
import type { CommandKind } from './command';
import { checkedInside, kindInside, type Plain } from './inner';

class Several {
  @Equals('several') type!: 'several';
  /** What they do together, for the history. */
  @IsString() @Length(1, 200) what!: string;
  @IsArray() @ArrayMinSize(1) @ArrayMaxSize(2000) @CheckedBy(each) commands!: Plain[];
}

/** What can’t be among several: they hold others themselves. */
const NOT = ['several', 'variant.edit'];
const kindOfOne = (one: Plain) => kindInside(one, NOT);

/** @throws InputError for the first that isn't as its own kind wants it */
function each(list: unknown): Plain[] {
  if (!Array.isArray(list)) throw new InputError('command/several', 'changes have to be a list.');
  return list.map((one) => checkedInside(one, NOT));
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
