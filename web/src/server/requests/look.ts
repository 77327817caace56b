import 'reflect-metadata';
import { Type } from 'class-transformer';
import {
  ArrayMaxSize,
  ArrayMinSize,
  Equals,
  IsArray,
  IsBoolean,
  IsDefined,
  IsIn,
  IsInt,
  IsNumber,
  IsString,
  Length,
  Max,
  Min,
  ValidateIf,
  ValidateNested,
} from 'class-validator';
import { Maybe } from './maybe';

/** Shapes of the second half's commands: materials, light, shot, picture, hand-off. See core/pipeline/commands. */
const finite = { allowNaN: false, allowInfinity: false };

/** Three numbers of 0 … 1, sRGB. */
function IsColour(): PropertyDecorator {
  const checks = [
    IsArray(),
    ArrayMinSize(3),
    ArrayMaxSize(3),
    IsNumber(finite, { each: true }),
    Min(0, { each: true }),
    Max(1, { each: true }),
  ];
  return (target, key) => {
    for (const check of checks) check(target, key as string);
  };
}
/** A share, 0 … 1. */
function IsShare(): PropertyDecorator {
  const checks = [IsNumber(finite), Min(0), Max(1)];
  return (target, key) => {
    for (const check of checks) check(target, key as string);
  };
}

export class WearShape {
  @IsShare() share!: number;
  @IsColour() colour!: number[];
  @IsShare() metallic!: number;
  @IsShare() roughness!: number;
}
export class DirtShape {
  @IsShare() share!: number;
  @IsColour() colour!: number[];
  @IsShare() roughness!: number;
  @IsShare() cover!: number;
}
export class MaterialPatchShape {
  @Maybe() @IsString() @Length(1, 80) name?: string;
  @Maybe() @ValidateIf((o: MaterialPatchShape) => o.base !== null) @IsString() @Length(1, 60) base?: string | null;
  @Maybe() @IsString() @Length(1, 300) source?: string;
  @Maybe() @IsColour() colour?: number[];
  @Maybe() @IsShare() metallic?: number;
  @Maybe() @IsShare() roughness?: number;
  @Maybe() @IsNumber(finite) @Min(1) @Max(4) ior?: number;
  @Maybe() @IsShare() transmission?: number;
  @Maybe() @IsShare() coat?: number;
  @Maybe() @IsShare() coatRoughness?: number;
  @Maybe() @IsNumber(finite) @Min(0) @Max(1e6) emission?: number;
  @Maybe() @ValidateIf((o: MaterialPatchShape) => o.wear !== null) @ValidateNested() @Type(() => WearShape) wear?: WearShape | null;
  @Maybe() @ValidateIf((o: MaterialPatchShape) => o.dirt !== null) @ValidateNested() @Type(() => DirtShape) dirt?: DirtShape | null;
}
export class MaterialShape {
  @IsString() @Length(1, 60) id!: string;
  @IsString() @Length(1, 80) name!: string;
  @ValidateIf((o: MaterialShape) => o.base !== null) @IsString() @Length(1, 60) base!: string | null;
  @IsString() @Length(1, 300) source!: string;
  @IsBoolean() touched!: boolean;
  @IsColour() colour!: number[];
  @IsShare() metallic!: number;
  @IsShare() roughness!: number;
  @IsNumber(finite) @Min(1) @Max(4) ior!: number;
  @IsShare() transmission!: number;
  @IsShare() coat!: number;
  @IsShare() coatRoughness!: number;
  @IsNumber(finite) @Min(0) @Max(1e6) emission!: number;
  @ValidateIf((o: MaterialShape) => o.wear !== null) @IsDefined() @ValidateNested() @Type(() => WearShape) wear!: WearShape | null;
  @ValidateIf((o: MaterialShape) => o.dirt !== null) @IsDefined() @ValidateNested() @Type(() => DirtShape) dirt!: DirtShape | null;
}
export class MaterialCommand {
  @Equals('material.add') type!: string;
  @IsDefined() @ValidateNested() @Type(() => MaterialShape) material!: MaterialShape;
  @Maybe() @IsArray() @ArrayMaxSize(1000) @IsString({ each: true }) parts?: string[];
}
export class MaterialSetCommand {
  @Equals('material.set') type!: string;
  @IsString() @Length(1, 60) material!: string;
  @IsDefined() @ValidateNested() @Type(() => MaterialPatchShape) patch!: MaterialPatchShape;
}
export class MaterialRemoveCommand {
  @Equals('material.remove') type!: string;
  @IsString() @Length(1, 60) material!: string;
}

export class SurfacePatchShape {
  @Maybe() @IsInt() @Min(0) @Max(2 ** 31) seed?: number;
}
export class SurfaceCommand {
  @Equals('surface.set') type!: string;
  @IsDefined() @ValidateNested() @Type(() => SurfacePatchShape) patch!: SurfacePatchShape;
}

export class LampShape {
  @IsNumber(finite) @Min(-180) @Max(180) turn!: number;
  @IsNumber(finite) @Min(-10) @Max(90) raise!: number;
  @IsNumber(finite) @Min(1.2) @Max(20) distance!: number;
  @IsNumber(finite) @Min(0.05) @Max(10) width!: number;
  @IsNumber(finite) @Min(0.05) @Max(10) height!: number;
  @IsNumber(finite) @Min(0.01) @Max(100) ratio!: number;
  @IsNumber(finite) @Min(1000) @Max(15000) kelvin!: number;
}
export class LampsShape {
  @IsDefined() @ValidateNested() @Type(() => LampShape) key!: LampShape;
  @IsDefined() @ValidateNested() @Type(() => LampShape) fill!: LampShape;
  @IsDefined() @ValidateNested() @Type(() => LampShape) rim!: LampShape;
}
export class RigPatchShape {
  @Maybe() @IsString() @Length(1, 80) name?: string;
  @Maybe() @ValidateNested() @Type(() => LampsShape) lamps?: LampsShape;
  @Maybe() @IsNumber(finite) @Min(0) @Max(4) surround?: number;
  @Maybe() @IsIn(['paper', 'white', 'colour', 'transparent']) background?: string;
  @Maybe() @IsColour() colour?: number[];
}
export class RigCommand {
  @Equals('rig.set') type!: string;
  @IsDefined() @ValidateNested() @Type(() => RigPatchShape) patch!: RigPatchShape;
}

export class ShotPatchShape {
  @Maybe() @IsString() @Length(1, 80) name?: string;
  @Maybe() @IsNumber(finite) @Min(-360) @Max(360) azimuth?: number;
  @Maybe() @IsNumber(finite) @Min(-30) @Max(85) elevation?: number;
  @Maybe() @IsNumber(finite) @Min(8) @Max(1000) lensMm?: number;
  @Maybe() @IsNumber(finite) @Min(1) @Max(200) sensorHeightMm?: number;
  @Maybe() @IsInt() @Min(16) @Max(16384) widthPx?: number;
  @Maybe() @IsInt() @Min(16) @Max(16384) heightPx?: number;
  @Maybe() @IsNumber(finite) @Min(0) @Max(0.4) margin?: number;
  @Maybe() @IsNumber(finite) @Min(0.02) @Max(1) sharpShare?: number;
  @Maybe() @ValidateIf((o: ShotPatchShape) => o.aperture !== null) @IsNumber(finite) @Min(0.7) @Max(128) aperture?: number | null;
  @Maybe() @IsNumber(finite) @Min(1e-5) @Max(3600) seconds?: number;
  @Maybe() @IsNumber(finite) @Min(6) @Max(204800) iso?: number;
  @Maybe() @IsIn(['linear', 'neutral']) tone?: string;
  @Maybe() @IsBoolean() locked?: boolean;
}
export class ShotCommand {
  @Equals('shot.set') type!: string;
  @IsDefined() @ValidateNested() @Type(() => ShotPatchShape) patch!: ShotPatchShape;
}

export class RenderPatchShape {
  @Maybe() @IsIn(['samples', 'noise']) until?: string;
  @Maybe() @IsInt() @Min(2) @Max(65536) samples?: number;
  @Maybe() @IsNumber(finite) @Min(0.0002) @Max(0.5) noise?: number;
  @Maybe() @IsInt() @Min(0) @Max(2 ** 31) seed?: number;
}
export class RenderCommand {
  @Equals('render.set') type!: string;
  @IsDefined() @ValidateNested() @Type(() => RenderPatchShape) patch!: RenderPatchShape;
}

export class IncludeShape {
  @IsBoolean() glb!: boolean;
  @IsBoolean() obj!: boolean;
  @IsBoolean() textures!: boolean;
  @IsBoolean() layout!: boolean;
  @IsBoolean() picture!: boolean;
  @IsBoolean() sheet!: boolean;
  @Maybe() @IsBoolean() levels?: boolean;
}
export class HandoffPatchShape {
  @Maybe() @IsIn(['mm', 'cm', 'm', 'in']) unit?: string;
  @Maybe() @IsIn(['up', 'down']) y?: string;
  @Maybe() @ValidateNested() @Type(() => IncludeShape) include?: IncludeShape;
}
export class HandoffCommand {
  @Equals('handoff.set') type!: string;
  @IsDefined() @ValidateNested() @Type(() => HandoffPatchShape) patch!: HandoffPatchShape;
}

export const LOOK_COMMANDS = {
  'material.add': MaterialCommand,
  'material.set': MaterialSetCommand,
  'material.remove': MaterialRemoveCommand,
  'surface.set': SurfaceCommand,
  'rig.set': RigCommand,
  'shot.set': ShotCommand,
  'render.set': RenderCommand,
  'handoff.set': HandoffCommand,
} as const;
