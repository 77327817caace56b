import { Type } from 'class-transformer';
import { Equals, IsDefined, ValidateNested } from 'class-validator';
import type { Part } from '../document';
import { IsId, OrNull } from './checks';
import { type CommandKind, partIn, partName } from './command';
import { HighShape } from './mesh';

class HighPair {
  @Equals('high.pair') type!: 'high.pair';
  @IsId() part!: string;
  @OrNull() @IsDefined() @ValidateNested() @Type(() => HighShape) high!: NonNullable<Part['high']> | null;
}

export const highPair: CommandKind<HighPair> = {
  type: 'high.pair',
  shape: HighPair,
  blobs: ({ high }) => (high ? [high.blob] : []),
  apply(d, { part, high }) {
    const p = partIn(d, part);
    if (high) p.high = high;
    else delete p.high;
  },
  words: ({ part, high }, before) => (high ? `paired ${partName(before, part)} with ${high.name}` : `unpaired ${partName(before, part)}`),
  touches: ({ part }) => [`part/${part}/high`],
};
