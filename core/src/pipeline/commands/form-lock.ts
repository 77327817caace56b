import { Equals, IsInt, IsString, Length, Max, Min } from 'class-validator';
import { OrNull } from './checks';
import type { CommandKind } from './command';

class FormLock {
  @Equals('form.lock') type!: 'form.lock';
  @IsString() @Length(1, 200) key!: string;
  @IsString() @Length(1, 200) label!: string;
  @OrNull() @IsInt() @Min(1) @Max(4096) count!: number | null;
}

export const formLock: CommandKind<FormLock> = {
  type: 'form.lock',
  shape: FormLock,
  apply(d, { key, count }) {
    if (count === null) delete d.form.locks[key];
    else d.form.locks[key] = count;
  },
  words: ({ label, count }) => (count === null ? `left ${label} to the solver` : `fixed ${label} at ${count}`),
  touches: ({ key }) => [`form/lock/${key}`],
};
