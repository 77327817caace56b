import { Equals, IsInt, IsObject, Min } from 'class-validator';
import { InputError } from '../../errors';
import type { Counts } from '../../form/budget/solve';
import { CheckedBy } from './checks';
import type { CommandKind } from './command';

/** Checks counts by key. @throws InputError in one sentence */
export function checkCounts(counts: unknown): void {
  const list = Object.values(counts ?? {});
  if (typeof counts !== 'object' || list.length > 5000 || list.some((n) => !Number.isInteger(n) || n < 1 || n > 4096))
    throw new InputError('command/counts', 'counts are whole numbers from 1 to 4096.');
}

class FormCounts {
  @Equals('form.counts') type!: 'form.counts';
  @IsObject() @CheckedBy(checkCounts) counts!: Counts;
  @IsInt() @Min(0) triangles!: number;
}

export const formCounts: CommandKind<FormCounts> = {
  type: 'form.counts',
  shape: FormCounts,
  apply(d, { counts }) {
    d.form.counts = counts;
  },
  words: ({ triangles }) => `took the solver’s counts: ${triangles} triangles`,
  touches: () => ['form/counts'],
};
