import { Equals } from 'class-validator';
import { IsId } from './checks';
import type { CommandKind } from './command';

class PrintRemove {
  @Equals('print.remove') type!: 'print.remove';
  @IsId() print!: string;
}

export const printRemove: CommandKind<PrintRemove> = {
  type: 'print.remove',
  shape: PrintRemove,
  apply(d, { print }) {
    const left = (d.prints ?? []).filter((p) => p.id !== print);
    if (left.length > 0) d.prints = left;
    else delete d.prints;
  },
  words: ({ print }, before) => `removed ${before.prints?.find((p) => p.id === print)?.name ?? 'a print'}`,
  touches: ({ print }) => [`print/${print}`],
};
