import 'reflect-metadata';
import { Type } from 'class-transformer';
import {
  ArrayMaxSize,
  ArrayMinSize,
  Equals,
  IsArray,
  IsBoolean,
  IsIn,
  IsInt,
  IsNumber,
  IsOptional,
  IsString,
  Length,
  Max,
  Min,
  ValidateIf,
  ValidateNested,
} from 'class-validator';

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
  @IsOptional() @IsString() @Length(1, 80) name?: string;
  @IsOptional() @ValidateIf((o: MaterialPatchShape) => o.base !== null) @IsString() @Length(1, 60) base?: string | null;
  @IsOptional() @IsString() @Length(1, 300) source?: string;
  @IsOptional() @IsColour() colour?: number[];
  @IsOptional() @IsShare() metallic?: number;
  @IsOptional() @IsShare() roughness?: number;
  @IsOptional() @IsNumber(finite) @Min(1) @Max(4) ior?: number;
  @IsOptional() @IsShare() transmission?: number;
  @IsOptional() @IsShare() coat?: number;
  @IsOptional() @IsShare() coatRoughness?: number;
  @IsOptional() @IsNumber(finite) @Min(0) @Max(1e6) emission?: number;
  @IsOptional() @ValidateIf((o: MaterialPatchShape) => o.wear !== null) @ValidateNested() @Type(() => WearShape) wear?: WearShape | null;
  @IsOptional() @ValidateIf((o: MaterialPatchShape) => o.dirt !== null) @ValidateNested() @Type(() => DirtShape) dirt?: DirtShape | null;
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
  @ValidateIf((o: MaterialShape) => o.wear !== null) @ValidateNested() @Type(() => WearShape) wear!: WearShape | null;
  @ValidateIf((o: MaterialShape) => o.dirt !== null) @ValidateNested() @Type(() => DirtShape) dirt!: DirtShape | null;
}
export class MaterialCommand {
  @Equals('material.add') type!: string;
  @ValidateNested() @Type(() => MaterialShape) material!: MaterialShape;
  @IsOptional() @IsArray() @ArrayMaxSize(1000) @IsString({ each: true }) parts?: string[];
}
export class MaterialSetCommand {
  @Equals('material.set') type!: string;
  @IsString() @Length(1, 60) material!: string;
  @ValidateNested() @Type(() => MaterialPatchShape) patch!: MaterialPatchShape;
}
export class MaterialRemoveCommand {
  @Equals('material.remove') type!: string;
  @IsString() @Length(1, 60) material!: string;
}

export class SurfacePatchShape {
  @IsOptional() @IsInt() @Min(0) @Max(2 ** 31) seed?: number;
}
export class SurfaceCommand {
  @Equals('surface.set') type!: string;
  @ValidateNested() @Type(() => SurfacePatchShape) patch!: SurfacePatchShape;
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
  @ValidateNested() @Type(() => LampShape) key!: LampShape;
  @ValidateNested() @Type(() => LampShape) fill!: LampShape;
  @ValidateNested() @Type(() => LampShape) rim!: LampShape;
}
export class RigPatchShape {
  @IsOptional() @IsString() @Length(1, 80) name?: string;
  @IsOptional() @ValidateNested() @Type(() => LampsShape) lamps?: LampsShape;
  @IsOptional() @IsNumber(finite) @Min(0) @Max(4) surround?: number;
  @IsOptional() @IsIn(['paper', 'white', 'colour', 'transparent']) background?: string;
  @IsOptional() @IsColour() colour?: number[];
}
export class RigCommand {
  @Equals('rig.set') type!: string;
  @ValidateNested() @Type(() => RigPatchShape) patch!: RigPatchShape;
}

export class ShotPatchShape {
  @IsOptional() @IsString() @Length(1, 80) name?: string;
  @IsOptional() @IsNumber(finite) @Min(-360) @Max(360) azimuth?: number;
  @IsOptional() @IsNumber(finite) @Min(-30) @Max(85) elevation?: number;
  @IsOptional() @IsNumber(finite) @Min(8) @Max(1000) lensMm?: number;
  @IsOptional() @IsNumber(finite) @Min(1) @Max(200) sensorHeightMm?: number;
  @IsOptional() @IsInt() @Min(16) @Max(16384) widthPx?: number;
  @IsOptional() @IsInt() @Min(16) @Max(16384) heightPx?: number;
  @IsOptional() @IsNumber(finite) @Min(0) @Max(0.4) margin?: number;
  @IsOptional() @IsNumber(finite) @Min(0.02) @Max(1) sharpShare?: number;
  @IsOptional() @ValidateIf((o: ShotPatchShape) => o.aperture !== null) @IsNumber(finite) @Min(0.7) @Max(128) aperture?: number | null;
  @IsOptional() @IsNumber(finite) @Min(1e-5) @Max(3600) seconds?: number;
  @IsOptional() @IsNumber(finite) @Min(6) @Max(204800) iso?: number;
  @IsOptional() @IsIn(['linear', 'neutral']) tone?: string;
  @IsOptional() @IsBoolean() locked?: boolean;
}
export class ShotCommand {
  @Equals('shot.set') type!: string;
  @ValidateNested() @Type(() => ShotPatchShape) patch!: ShotPatchShape;
}

export class RenderPatchShape {
  @IsOptional() @IsIn(['samples', 'noise']) until?: string;
  @IsOptional() @IsInt() @Min(2) @Max(65536) samples?: number;
  @IsOptional() @IsNumber(finite) @Min(0.0002) @Max(0.5) noise?: number;
  @IsOptional() @IsInt() @Min(0) @Max(2 ** 31) seed?: number;
}
export class RenderCommand {
  @Equals('render.set') type!: string;
  @ValidateNested() @Type(() => RenderPatchShape) patch!: RenderPatchShape;
}

export class IncludeShape {
  @IsBoolean() glb!: boolean;
  @IsBoolean() obj!: boolean;
  @IsBoolean() textures!: boolean;
  @IsBoolean() layout!: boolean;
  @IsBoolean() picture!: boolean;
  @IsBoolean() sheet!: boolean;
}
export class HandoffPatchShape {
  @IsOptional() @IsIn(['mm', 'cm', 'm', 'in']) unit?: string;
  @IsOptional() @IsIn(['up', 'down']) y?: string;
  @IsOptional() @ValidateNested() @Type(() => IncludeShape) include?: IncludeShape;
}
export class HandoffCommand {
  @Equals('handoff.set') type!: string;
  @ValidateNested() @Type(() => HandoffPatchShape) patch!: HandoffPatchShape;
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
