import { Type } from 'class-transformer';
import { Equals, IsDefined, IsIn, IsInt, IsString, Length, Max, Min, ValidateNested } from 'class-validator';
import { REFERENCE_VIEWS, type Reference, type ReferenceView } from '../../form/reference';
import { Between, FAR, IsBlob, IsId, IsShare } from './checks';
import { type CommandKind, withOne } from './command';

/** A picture behind the piece as a request may hold it. */
export class ReferenceShape implements Reference {
  @IsId() id!: string;
  @IsString() @Length(1, 120) name!: string;
  @IsIn(Object.keys(REFERENCE_VIEWS)) view!: ReferenceView;
  @IsBlob() blob!: string;
  @IsInt() @Min(1) @Max(16384) widthPx!: number;
  @IsInt() @Min(1) @Max(16384) heightPx!: number;
  @Between(1e-5, 1e4) mmPerPx!: number;
  @Between(-FAR, FAR) x!: number;
  @Between(-FAR, FAR) y!: number;
  @IsShare() opacity!: number;
}

class ReferenceSet {
  @Equals('reference.set') type!: 'reference.set';
  @IsDefined() @ValidateNested() @Type(() => ReferenceShape) reference!: Reference;
}

export const referenceSet: CommandKind<ReferenceSet> = {
  type: 'reference.set',
  shape: ReferenceSet,
  blobs: ({ reference }) => [reference.blob],
  apply(d, { reference }) {
    d.references = withOne(d.references, reference);
  },
  words: ({ reference }) => `set the picture ${reference.name} behind the piece`,
  touches: ({ reference }) => [`reference/${reference.id}`],
};
