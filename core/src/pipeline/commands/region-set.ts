import { Equals, IsDefined } from 'class-validator';
import { checkRegion, type Region } from '../../form/regions';
import { CheckedBy, IsId } from './checks';
import { type CommandKind, partIn, partName, withOne } from './command';

class RegionSet {
  @Equals('region.set') type!: 'region.set';
  @IsId() part!: string;
  @IsDefined() @CheckedBy(checkRegion) region!: Region;
}

export const regionSet: CommandKind<RegionSet> = {
  type: 'region.set',
  shape: RegionSet,
  cleaned: (c) => ({ ...c, region: checkRegion(c.region) }),
  apply(d, { part, region }) {
    const p = partIn(d, part);
    p.regions = withOne(p.regions, region);
  },
  words: ({ part, region }, before) => `set the region ${region.name} of ${partName(before, part)}`,
  touches: ({ part, region }) => [`part/${part}/region/${region.id}`],
};
