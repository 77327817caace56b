import { Type } from 'class-transformer';
import { Equals, IsDefined, IsIn, IsString, Length, MaxLength, ValidateNested } from 'class-validator';
import { checkDimension, type Dimension } from '../../form/dimensions';
import { IsId, Maybe } from './checks';
import { type CommandKind, withOne } from './command';

/** A named dimension as a request may hold it. */
export class DimensionShape implements Dimension {
  @IsId() id!: string;
  @IsString() @Length(1, 60) name!: string;
  @IsString() @Length(1, 200) formula!: string;
  @IsIn(['length', 'number']) kind!: Dimension['kind'];
  @Maybe() @IsString() @MaxLength(120) source?: string;
}

class DimensionSet {
  @Equals('dimension.set') type!: 'dimension.set';
  @IsDefined() @ValidateNested() @Type(() => DimensionShape) dimension!: Dimension;
}

export const dimensionSet: CommandKind<DimensionSet> = {
  type: 'dimension.set',
  shape: DimensionSet,
  apply(d, { dimension }) {
    checkDimension(dimension, d.dimensions);
    d.dimensions = withOne(d.dimensions, dimension);
  },
  words: ({ dimension }) => `set ${dimension.name} = ${dimension.formula}`,
  touches: ({ dimension }) => [`dimension/${dimension.id}`, `dimension-named/${dimension.name.toLowerCase()}`],
};
