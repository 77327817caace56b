import { Type } from 'class-transformer';
import { Equals, IsDefined, IsNumber, IsString, Length, ValidateNested } from 'class-validator';
import type { Box } from '../../inspect/finding';
import type { Waiver } from '../document';
import { finite, IsNumbers, Maybe } from './checks';
import type { CommandKind } from './command';

/** A waiver as a request may hold it. */
export class WaiverShape implements Waiver {
  @IsString() @Length(1, 300) finding!: string;
  @IsString() @Length(3, 300) reason!: string;
  @IsNumber(finite) value!: number;
  @Maybe() @IsNumbers(6) covers?: Box;
}

class Waive {
  @Equals('waive') type!: 'waive';
  @IsDefined() @ValidateNested() @Type(() => WaiverShape) waiver!: Waiver;
}

export const waive: CommandKind<Waive> = {
  type: 'waive',
  shape: Waive,
  apply(d, { waiver }) {
    d.waivers = [...d.waivers.filter((w) => w.finding !== waiver.finding), waiver];
  },
  words: ({ waiver }) => `waived a finding: ${waiver.reason}`,
  touches: ({ waiver }) => [`waiver/${waiver.finding}`],
};
