import { Type } from 'class-transformer';
import { ArrayUnique, Equals, IsArray, IsBoolean, IsDefined, IsIn, IsInt, Max, Min, ValidateNested } from 'class-validator';
import { checkDabs } from '../../bake/dabs';
import { FURTHER_MAPS, ID_BY } from '../../bake/maps/further';
import type { BakeChoices } from '../document';
import { Between, CheckedBy, FAR, Maybe } from './checks';
import { type CommandKind, fieldsOf, under } from './command';

/** What of a bake’s settings a request may change. */
export class BakePatch implements Partial<BakeChoices> {
  @Maybe() @IsIn([1, 2, 4, 8]) samples?: BakeChoices['samples'];
  @Maybe() @IsIn(['up', 'down']) y?: BakeChoices['y'];
  @Maybe() @IsIn([8, 16]) bits?: BakeChoices['bits'];
  @Maybe() @IsBoolean() normal?: boolean;
  @Maybe() @IsBoolean() occlusion?: boolean;
  @Maybe() @IsInt() @Min(1) @Max(1024) occlusionRays?: number;
  @Maybe() @Between(0.1, FAR) reachMm?: number;
  @Maybe() @IsIn(['measured', 'uniform']) distances?: BakeChoices['distances'];
  @Maybe() @IsIn(['averaged', 'split']) directions?: BakeChoices['directions'];
  @Maybe() @Between(0, FAR) frontMm?: number;
  @Maybe() @Between(0, FAR) rearMm?: number;
  @Maybe() @CheckedBy(checkDabs) dabs?: BakeChoices['dabs'];
  @Maybe() @IsBoolean() curvature?: boolean;
  @Maybe() @Between(0.01, 1000) curvatureRadiusMm?: number;
  @Maybe() @IsBoolean() movingOcclude?: boolean;
  @Maybe() @IsBoolean() movingOpen?: boolean;
  @Maybe() @IsArray() @ArrayUnique() @IsIn(FURTHER_MAPS, { each: true }) further?: BakeChoices['further'];
  @Maybe() @Between(1, 90) spreadDegrees?: number;
  @Maybe() @IsBoolean() neighbours?: boolean;
  @Maybe() @IsBoolean() bentNeighbours?: boolean;
  @Maybe() @IsBoolean() ground?: boolean;
  @Maybe() @Between(0.1, FAR) thicknessMm?: number;
  @Maybe() @IsIn(Object.keys(ID_BY)) idBy?: BakeChoices['idBy'];
  @Maybe() @IsBoolean() idClean?: boolean;
  @Maybe() @IsBoolean() itself?: boolean;
  @Maybe() @Between(0, 1000) roundMm?: number;
  @Maybe() @IsInt() @Min(0) @Max(256) carriedPx?: number;
}

class BakeSet {
  @Equals('bake.set') type!: 'bake.set';
  @IsDefined() @ValidateNested() @Type(() => BakePatch) patch!: Partial<BakeChoices>;
}

export const bakeSet: CommandKind<BakeSet> = {
  type: 'bake.set',
  shape: BakeSet,
  cleaned: ({ type, patch }) => ({ type, patch: { ...patch, ...(patch.dabs && { dabs: checkDabs(patch.dabs) }) } }),
  apply(d, { patch }) {
    Object.assign(d.bake, patch);
  },
  words: ({ patch }) => `set the bake: ${fieldsOf(patch)}`,
  touches: ({ patch }) => under('bake', patch),
};
