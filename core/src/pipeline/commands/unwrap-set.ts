import { Type } from 'class-transformer';
import { Equals, IsBoolean, IsDefined, IsIn, IsInt, Max, Min, ValidateNested } from 'class-validator';
import { checkFlatChoices, type FlatChoice } from '../../uv/chosen/choices';
import { checkIslandPlaces, type IslandPlace } from '../../uv/hand/places';
import type { Turning } from '../../uv/pack/pack';
import type { SecondChoices } from '../../uv/second';
import { FILED, type Filed, type UnwrapChoices } from '../document';
import { Between, CheckedBy, Maybe } from './checks';
import { type CommandKind, fieldsOf, under } from './command';

class SecondPatch implements SecondChoices {
  @IsBoolean() on!: boolean;
  @IsInt() @Min(16) @Max(8192) size!: number;
  @IsInt() @Min(0) @Max(128) padding!: number;
}

/** What of a layout’s settings a request may change. */
export class UnwrapPatch implements Partial<UnwrapChoices> {
  @Maybe() @IsInt() @Min(0) @Max(128) padding?: number;
  @Maybe() @Between(1, 180) seamAngle?: number;
  @Maybe() @IsIn([true, false, 'freely']) rotate?: Turning;
  @Maybe() @Between(-2, 2) fewer?: number;
  @Maybe() @Between(1.001, 3) stretchLimit?: number;
  @Maybe() @IsBoolean() whole?: boolean;
  @Maybe() @Between(0.1, 1) unseen?: number;
  @Maybe() @ValidateNested() @Type(() => SecondPatch) second?: SecondChoices;
  @Maybe() @IsIn(['once', 'each']) twins?: 'once' | 'each';
  @Maybe() @IsIn(Object.keys(FILED)) filed?: Filed;
  @Maybe() @CheckedBy(checkIslandPlaces) places?: IslandPlace[];
  @Maybe() @CheckedBy(checkFlatChoices) choices?: FlatChoice[];
}

class UnwrapSet {
  @Equals('unwrap.set') type!: 'unwrap.set';
  @IsDefined() @ValidateNested() @Type(() => UnwrapPatch) patch!: Partial<UnwrapChoices>;
}

export const unwrapSet: CommandKind<UnwrapSet> = {
  type: 'unwrap.set',
  shape: UnwrapSet,
  apply(d, { patch }) {
    Object.assign(d.unwrap, patch);
  },
  words: ({ patch }) => `set the layout: ${fieldsOf(patch)}`,
  touches: ({ patch }) => under('unwrap', patch),
};
