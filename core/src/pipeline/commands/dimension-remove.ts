import { Equals } from 'class-validator';
import { IsId } from './checks';
import type { CommandKind } from './command';

class DimensionRemove {
  @Equals('dimension.remove') type!: 'dimension.remove';
  @IsId() dimension!: string;
}

export const dimensionRemove: CommandKind<DimensionRemove> = {
  type: 'dimension.remove',
  shape: DimensionRemove,
  apply(d, { dimension }) {
    d.dimensions = d.dimensions.filter((x) => x.id !== dimension);
  },
  words: ({ dimension }, before) => `removed the dimension ${before.dimensions.find((x) => x.id === dimension)?.name ?? ''}`,
  touches: ({ dimension }) => [`dimension/${dimension}`],
};
