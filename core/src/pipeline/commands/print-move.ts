import { Equals } from 'class-validator';
import { InputError } from '../../errors';
import { IsId, IsPlaces } from './checks';
import { type CommandKind, moved } from './command';

class PrintMove {
  @Equals('print.move') type!: 'print.move';
  @IsId() print!: string;
  /** Places up in the list, which is nearer to the surface; down when positive: over the others. */
  @IsPlaces() by!: number;
}

export const printMove: CommandKind<PrintMove> = {
  type: 'print.move',
  shape: PrintMove,
  apply(d, { print, by }) {
    const list = d.prints ?? [];
    const at = list.findIndex((p) => p.id === print);
    if (at < 0) throw new InputError('command/print', 'The print this change is for is no longer there.');
    moved(list, at, by);
  },
  words: ({ print, by }, before) =>
    `laid ${before.prints?.find((p) => p.id === print)?.name ?? 'a print'} ${by < 0 ? 'under' : 'over'} ${Math.abs(by) === 1 ? 'another' : `${Math.abs(by)} others`}`,
  touches: () => ['print'],
};
