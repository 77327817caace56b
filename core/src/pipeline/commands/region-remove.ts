import { Equals } from 'class-validator';
import { IsId } from './checks';
import { type CommandKind, partIn, partName } from './command';

class RegionRemove {
  @Equals('region.remove') type!: 'region.remove';
  @IsId() part!: string;
  @IsId() region!: string;
}

export const regionRemove: CommandKind<RegionRemove> = {
  type: 'region.remove',
  shape: RegionRemove,
  apply(d, { part, region }) {
    const p = partIn(d, part);
    p.regions = (p.regions ?? []).filter((r) => r.id !== region);
  },
  words: ({ part }, before) => `removed a region of ${partName(before, part)}`,
  touches: ({ part, region }) => [`part/${part}/region/${region}`],
};
