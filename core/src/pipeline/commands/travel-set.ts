import { Type } from 'class-transformer';
import { Equals, IsDefined, ValidateNested } from 'class-validator';
import type { Travel } from '../../inspect/relations';
import { IsId, OrNull } from './checks';
import { type CommandKind, partIn, partName } from './command';
import { TravelShape } from './travel';

class TravelSet {
  @Equals('travel.set') type!: 'travel.set';
  @IsId() part!: string;
  @OrNull() @IsDefined() @ValidateNested() @Type(() => TravelShape) travel!: Travel | null;
}

export const travelSet: CommandKind<TravelSet> = {
  type: 'travel.set',
  shape: TravelSet,
  apply(d, { part, travel }) {
    const p = partIn(d, part);
    if (travel) p.travel = travel;
    else delete p.travel;
  },
  words: ({ part, travel }, before) =>
    travel ? `let ${partName(before, part)} ${travel.kind}` : `fixed ${partName(before, part)} in place`,
  touches: ({ part }) => [`part/${part}/travel`],
};
