import { Type } from 'class-transformer';
import { Equals, IsDefined, IsIn, IsInt, IsISO8601, IsString, Length, Max, Min, ValidateIf, ValidateNested } from 'class-validator';
import { type Brief, type Limits, ORIGINS, type Origin, PURPOSES, type Purpose } from '../../brief/brief';
import type { Family } from '../../brief/family';
import { LENGTH_UNITS, type LengthUnit } from '../../units/lengths';
import { Between, FAR, IsNumbers, Maybe, OrNull } from './checks';
import { type CommandKind, fieldsOf, under } from './command';

/** Limits as a request may hold them. */
export class LimitsShape implements Limits {
  @IsInt() @Min(1) @Max(1e8) triangles!: number;
  @IsIn([128, 256, 512, 1024, 2048, 4096, 8192]) textureSize!: number;
  @IsInt() @Min(1) @Max(16) textureSets!: number;
  @Between(0.1, 1e5) memoryMB!: number;
}
/** Wanted figures that take the place of what follows from the brief. */
export class OverridesShape {
  @Maybe() @Between(0.01, 1e5) densityPxPerCm?: number;
  @Maybe() @Between(1e-5, 1e3) toleranceMm?: number;
}
/** Terms that pieces share. */
export class FamilyShape implements Family {
  @IsString() @Length(1, 80) name!: string;
  @IsInt() @Min(1) @Max(1e8) triangles!: number;
  @Between(0.1, 1e6) memoryMB!: number;
  @Between(0.01, 1e5) densityPxPerCm!: number;
  @OrNull() @IsISO8601() deadline!: string | null;
}
/** What of a brief a request may change. */
export class BriefPatch implements Partial<Brief> {
  @Maybe() @IsIn(Object.keys(PURPOSES)) purpose?: Purpose;
  @Maybe() @IsNumbers(3, 0.01, FAR) sizeMm?: [number, number, number];
  @Maybe() @IsIn(LENGTH_UNITS) unit?: LengthUnit;
  @Maybe() @Between(1, 1e6) closestMm?: number;
  @Maybe() @IsInt() @Min(16) @Max(32768) pictureHeightPx?: number;
  @Maybe() @Between(1, 2000) lensMm?: number;
  @Maybe() @Between(1, 500) sensorHeightMm?: number;
  @Maybe() @Between(0.01, 50) errorPx?: number;
  @Maybe() @IsIn(Object.keys(ORIGINS)) origin?: Origin;
  @Maybe() @Between(0, 1000) wallMm?: number;
  @Maybe() @ValidateNested() @Type(() => LimitsShape) limits?: LimitsShape;
  @Maybe() @ValidateIf((o: BriefPatch) => o.deadline !== null) @IsISO8601() deadline?: string | null;
  @Maybe() @ValidateNested() @Type(() => OverridesShape) overrides?: OverridesShape;
  @Maybe() @ValidateIf((o: BriefPatch) => o.family !== null) @ValidateNested() @Type(() => FamilyShape) family?: Family | null;
}

class BriefSet {
  @Equals('brief.set') type!: 'brief.set';
  @IsDefined() @ValidateNested() @Type(() => BriefPatch) patch!: Partial<Brief>;
}

export const briefSet: CommandKind<BriefSet> = {
  type: 'brief.set',
  shape: BriefSet,
  apply(d, { patch }) {
    Object.assign(d.brief, patch);
  },
  words: ({ patch }) => `set the brief: ${fieldsOf(patch)}`,
  touches: ({ patch }) => under('brief', patch),
};
