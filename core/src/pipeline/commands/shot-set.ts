import { Type } from 'class-transformer';
import {
  Equals,
  IsBoolean,
  IsDefined,
  IsIn,
  IsInt,
  IsString,
  Length,
  Max,
  MaxLength,
  Min,
  ValidateIf,
  ValidateNested,
} from 'class-validator';
import { InputError } from '../../errors';
import type { Shot } from '../../shot/shot';
import { Between, Maybe } from './checks';
import { type CommandKind, fieldsOf, under } from './command';

/** What of a shot a request may change. */
export class ShotPatch implements Partial<Shot> {
  @Maybe() @IsString() @Length(1, 80) name?: string;
  @Maybe() @Between(-360, 360) azimuth?: number;
  @Maybe() @Between(-30, 85) elevation?: number;
  @Maybe() @Between(8, 1000) lensMm?: number;
  @Maybe() @Between(1, 200) sensorHeightMm?: number;
  @Maybe() @IsInt() @Min(16) @Max(16384) widthPx?: number;
  @Maybe() @IsInt() @Min(16) @Max(16384) heightPx?: number;
  @Maybe() @Between(0, 0.4) margin?: number;
  @Maybe() @Between(0.02, 1) sharpShare?: number;
  @Maybe() @ValidateIf((o: ShotPatch) => o.aperture !== null) @Between(0.7, 128) aperture?: number | null;
  @Maybe() @Between(1e-5, 3600) seconds?: number;
  @Maybe() @Between(6, 204800) iso?: number;
  @Maybe() @IsIn(['linear', 'neutral']) tone?: Shot['tone'];
  @Maybe() @IsBoolean() locked?: boolean;
  /** Nothing frames the piece again. */
  @Maybe() @IsString() @MaxLength(60) photo?: string;
}

class ShotSet {
  @Equals('shot.set') type!: 'shot.set';
  @IsDefined() @ValidateNested() @Type(() => ShotPatch) patch!: Partial<Shot>;
}

export const shotSet: CommandKind<ShotSet> = {
  type: 'shot.set',
  shape: ShotSet,
  apply(d, { patch }) {
    if (d.shot.locked && patch.locked !== false)
      throw new InputError('command/locked', 'The shot is locked; unlock it before changing it.');
    Object.assign(d.shot, patch);
    if (patch.photo === '') delete d.shot.photo;
  },
  words: ({ patch }) =>
    patch.locked === undefined ? `set the shot: ${fieldsOf(patch)}` : `${patch.locked ? 'locked' : 'unlocked'} the shot`,
  touches: ({ patch }) => under('shot', patch),
};
