import 'reflect-metadata';
import { ORIGINS } from '@wellmorph/core/brief/brief';
import { checkRegion, checkSeams, type PickedSeam, type Region } from '@wellmorph/core/form/regions';
import { checkStep, type Step } from '@wellmorph/core/form/steps/index';
import { checkPlacements } from '@wellmorph/core/maths/mat4';
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
  IsISO8601,
  IsNumber,
  IsObject,
  IsString,
  Length,
  Matches,
  Max,
  MaxLength,
  Min,
  ValidateIf,
  ValidateNested,
} from 'class-validator';
import { CheckedBy } from './checked-by';
import { LOOK_COMMANDS } from './look';
import { Maybe } from './maybe';

/** Shapes of what is edited as a whole; lengths in mm. Bounds are those of anything a bench could hold. Steps and regions are
 * checked by their own descriptions in the core. */
const FAR = 1e5;
const HASH = /^[0-9a-f]{64}$/;
const finite = { allowNaN: false, allowInfinity: false };

export class LimitsShape {
  @IsInt() @Min(1) @Max(1e8) triangles!: number;
  @IsIn([128, 256, 512, 1024, 2048, 4096, 8192]) textureSize!: number;
  @IsInt() @Min(1) @Max(16) textureSets!: number;
  @IsNumber(finite) @Min(0.1) @Max(1e5) memoryMB!: number;
}
export class OverridesShape {
  @Maybe() @IsNumber(finite) @Min(0.01) @Max(1e5) densityPxPerCm?: number;
  @Maybe() @IsNumber(finite) @Min(1e-5) @Max(1e3) toleranceMm?: number;
}
export class BriefPatchShape {
  @Maybe() @IsIn(['game', 'product', 'closeup', 'own']) purpose?: string;
  @Maybe()
  @IsArray()
  @ArrayMinSize(3)
  @ArrayMaxSize(3)
  @IsNumber(finite, { each: true })
  @Min(0.01, { each: true })
  @Max(FAR, { each: true })
  sizeMm?: number[];
  @Maybe() @IsNumber(finite) @Min(1) @Max(1e6) closestMm?: number;
  @Maybe() @IsInt() @Min(16) @Max(32768) pictureHeightPx?: number;
  @Maybe() @IsNumber(finite) @Min(1) @Max(2000) lensMm?: number;
  @Maybe() @IsNumber(finite) @Min(1) @Max(500) sensorHeightMm?: number;
  @Maybe() @IsNumber(finite) @Min(0.01) @Max(50) errorPx?: number;
  @Maybe() @IsIn(Object.keys(ORIGINS)) origin?: string;
  @Maybe() @IsNumber(finite) @Min(0) @Max(1000) wallMm?: number;
  @Maybe() @ValidateNested() @Type(() => LimitsShape) limits?: LimitsShape;
  @Maybe() @ValidateIf((o: BriefPatchShape) => o.deadline !== null) @IsISO8601() deadline?: string | null;
  @Maybe() @ValidateNested() @Type(() => OverridesShape) overrides?: OverridesShape;
}
export class UnwrapPatchShape {
  @Maybe() @IsInt() @Min(0) @Max(128) padding?: number;
  @Maybe() @IsNumber(finite) @Min(1) @Max(180) seamAngle?: number;
  @Maybe() @IsBoolean() rotate?: boolean;
}
export class BakePatchShape {
  @Maybe() @IsIn([1, 2, 4]) samples?: number;
  @Maybe() @IsIn(['up', 'down']) y?: string;
  @Maybe() @IsIn([8, 16]) bits?: number;
  @Maybe() @IsBoolean() normal?: boolean;
  @Maybe() @IsBoolean() occlusion?: boolean;
  @Maybe() @IsInt() @Min(1) @Max(1024) occlusionRays?: number;
  @Maybe() @IsNumber(finite) @Min(0.1) @Max(FAR) reachMm?: number;
  @Maybe() @IsIn(['measured', 'uniform']) distances?: string;
  @Maybe() @IsNumber(finite) @Min(0) @Max(FAR) frontMm?: number;
  @Maybe() @IsNumber(finite) @Min(0) @Max(FAR) rearMm?: number;
  @Maybe() @IsBoolean() curvature?: boolean;
  @Maybe() @IsNumber(finite) @Min(0.01) @Max(1000) curvatureRadiusMm?: number;
}
export class MeshRefShape {
  @Matches(HASH) blob!: string;
  @IsInt() @Min(0) @Max(1e9) triangles!: number;
}
export class HighShape extends MeshRefShape {
  @IsString() @Length(1, 120) name!: string;
  @IsIn(['name', 'place', 'hand']) pairedBy!: string;
}
export class RecipeShape {
  @Equals('recipe') kind!: string;
  @IsArray() @ArrayMaxSize(200) @CheckedBy((list) => (list as unknown[]).map(checkStep)) steps!: Step[];
}
const ROLES = ['body', 'glass', 'liquid', 'fastener', 'print', 'flame'];
export class PartPatchShape {
  @Maybe() @IsString() @Length(1, 80) name?: string;
  @Maybe() @IsIn(ROLES) role?: string;
  @Maybe() @ValidateIf((o: PartPatchShape) => o.material !== null) @IsString() @MaxLength(60) material?: string | null;
  @Maybe() @IsArray() @ArrayMinSize(3) @ArrayMaxSize(3) @IsNumber(finite, { each: true }) move?: number[];
  @Maybe() @IsArray() @ArrayMinSize(3) @ArrayMaxSize(3) @IsNumber(finite, { each: true }) turnDegrees?: number[];
  @Maybe() @IsNumber(finite) @Min(0.05) @Max(20) weight?: number;
  @Maybe() @IsBoolean() declaredOpen?: boolean;
  @Maybe() @IsBoolean() aid?: boolean;
}
export class TravelShape {
  @IsIn(['slide', 'turn']) kind!: string;
  @IsIn(['x', 'y', 'z']) axis!: string;
  @IsNumber(finite) @Min(-FAR) @Max(FAR) from!: number;
  @IsNumber(finite) @Min(-FAR) @Max(FAR) to!: number;
  @IsNumber(finite) @Min(-FAR) @Max(FAR) x!: number;
  @IsNumber(finite) @Min(-FAR) @Max(FAR) y!: number;
  @IsNumber(finite) @Min(-FAR) @Max(FAR) z!: number;
}
export class RelationShape {
  @IsString() @Length(1, 60) id!: string;
  @IsString() @Length(1, 60) a!: string;
  @IsString() @Length(1, 60) b!: string;
  @IsIn(['gap', 'resting', 'sunk', 'free']) wanted!: string;
  @IsNumber(finite) @Min(0) @Max(FAR) mm!: number;
  @IsNumber(finite) @Min(1e-6) @Max(1000) tolerance!: number;
}
export class PartShape {
  @IsString() @Length(1, 60) id!: string;
  @IsString() @Length(1, 80) name!: string;
  @IsIn(ROLES) role!: string;
  @ValidateIf((o: PartShape) => o.material !== null) @IsString() @MaxLength(60) material!: string | null;
  @IsArray() @ArrayMinSize(3) @ArrayMaxSize(3) @IsNumber(finite, { each: true }) move!: number[];
  @IsArray() @ArrayMinSize(3) @ArrayMaxSize(3) @IsNumber(finite, { each: true }) turnDegrees!: number[];
  @IsNumber(finite) @Min(0.05) @Max(20) weight!: number;
  @IsBoolean() declaredOpen!: boolean;
  @Maybe() @IsArray() @ArrayMaxSize(200) @CheckedBy((list) => (list as unknown[]).map(checkRegion)) regions?: Region[];
  @Maybe() @CheckedBy(checkSeams) seams?: PickedSeam[];
  @Maybe() @IsBoolean() aid?: boolean;
  @Maybe() @ValidateNested() @Type(() => TravelShape) travel?: TravelShape;
  /** Only recipes are added from the sheet; meshes come through the import. */
  @IsDefined() @ValidateNested() @Type(() => RecipeShape) shape!: RecipeShape;
}
export class WaiverShape {
  @IsString() @Length(1, 300) finding!: string;
  @IsString() @Length(3, 300) reason!: string;
  @IsNumber(finite) value!: number;
  @Maybe() @IsArray() @ArrayMinSize(6) @ArrayMaxSize(6) @IsNumber(finite, { each: true }) covers?: number[];
}

/** One class for each kind of change; see core/pipeline/commands. */
export class RenameCommand {
  @Equals('rename') type!: string;
  @IsString() @Length(1, 120) name!: string;
}
export class BriefCommand {
  @Equals('brief.set') type!: string;
  @IsDefined() @ValidateNested() @Type(() => BriefPatchShape) patch!: BriefPatchShape;
}
export class PartAddCommand {
  @Equals('part.add') type!: string;
  @IsDefined() @ValidateNested() @Type(() => PartShape) part!: PartShape;
}
export class PartRemoveCommand {
  @Equals('part.remove') type!: string;
  @IsString() @Length(1, 60) part!: string;
}
export class PartSetCommand {
  @Equals('part.set') type!: string;
  @IsString() @Length(1, 60) part!: string;
  @IsDefined() @ValidateNested() @Type(() => PartPatchShape) patch!: PartPatchShape;
}
export class StepWriteCommand {
  @IsIn(['step.add', 'step.set']) type!: string;
  @IsString() @Length(1, 60) part!: string;
  @IsDefined() @CheckedBy(checkStep) step!: Step;
  @Maybe() @IsString() @Length(1, 60) after?: string;
}
export class StepRemoveCommand {
  @Equals('step.remove') type!: string;
  @IsString() @Length(1, 60) part!: string;
  @IsString() @Length(1, 60) step!: string;
}
export class StepMoveCommand {
  @Equals('step.move') type!: string;
  @IsString() @Length(1, 60) part!: string;
  @IsString() @Length(1, 60) step!: string;
  @IsIn([-1, 1]) by!: number;
}
export class DimensionShape {
  @IsString() @Length(1, 60) id!: string;
  @IsString() @Length(1, 60) name!: string;
  @IsString() @Length(1, 200) formula!: string;
  @IsIn(['length', 'number']) kind!: string;
  @Maybe() @IsString() @MaxLength(120) source?: string;
}
export class DimensionCommand {
  @Equals('dimension.set') type!: string;
  @IsDefined() @ValidateNested() @Type(() => DimensionShape) dimension!: DimensionShape;
}
export class DimensionRemoveCommand {
  @Equals('dimension.remove') type!: string;
  @IsString() @Length(1, 60) dimension!: string;
}
export class ReferenceShape {
  @IsString() @Length(1, 60) id!: string;
  @IsString() @Length(1, 120) name!: string;
  @IsIn(['front', 'side', 'top']) view!: string;
  @Matches(HASH) blob!: string;
  @IsInt() @Min(1) @Max(16384) widthPx!: number;
  @IsInt() @Min(1) @Max(16384) heightPx!: number;
  @IsNumber(finite) @Min(1e-5) @Max(1e4) mmPerPx!: number;
  @IsNumber(finite) @Min(-FAR) @Max(FAR) x!: number;
  @IsNumber(finite) @Min(-FAR) @Max(FAR) y!: number;
  @IsNumber(finite) @Min(0) @Max(1) opacity!: number;
}
export class ReferenceCommand {
  @Equals('reference.set') type!: string;
  @IsDefined() @ValidateNested() @Type(() => ReferenceShape) reference!: ReferenceShape;
}
export class ReferenceRemoveCommand {
  @Equals('reference.remove') type!: string;
  @IsString() @Length(1, 60) reference!: string;
}
export class RegionCommand {
  @Equals('region.set') type!: string;
  @IsString() @Length(1, 60) part!: string;
  @IsDefined() @CheckedBy(checkRegion) region!: Region;
}
export class RegionRemoveCommand {
  @Equals('region.remove') type!: string;
  @IsString() @Length(1, 60) part!: string;
  @IsString() @Length(1, 60) region!: string;
}
export class PartsMoveCommand {
  @Equals('parts.move') type!: string;
  @IsArray()
  @ArrayMinSize(3)
  @ArrayMaxSize(3)
  @IsNumber(finite, { each: true })
  @Min(-FAR, { each: true })
  @Max(FAR, { each: true })
  by!: number[];
}
export class TravelCommand {
  @Equals('travel.set') type!: string;
  @IsString() @Length(1, 60) part!: string;
  @ValidateIf((o: TravelCommand) => o.travel !== null) @IsDefined() @ValidateNested() @Type(() => TravelShape) travel!: TravelShape | null;
}
export class RelationCommand {
  @Equals('relation.set') type!: string;
  @IsDefined() @ValidateNested() @Type(() => RelationShape) relation!: RelationShape;
}
export class RelationRemoveCommand {
  @Equals('relation.remove') type!: string;
  @IsString() @Length(1, 60) relation!: string;
}
export class SeamsCommand {
  @Equals('seams.set') type!: string;
  @IsString() @Length(1, 60) part!: string;
  @IsDefined() @CheckedBy(checkSeams) seams!: PickedSeam[];
}
export class CountsCommand {
  @Equals('form.counts') type!: string;
  @IsObject() counts!: Record<string, number>;
  @IsInt() @Min(0) triangles!: number;
}
export class LockCommand {
  @Equals('form.lock') type!: string;
  @IsString() @Length(1, 200) key!: string;
  @IsString() @Length(1, 200) label!: string;
  @ValidateIf((o: LockCommand) => o.count !== null) @IsInt() @Min(1) @Max(4096) count!: number | null;
}
export class ShareCommand {
  @Equals('form.share') type!: string;
  @IsString() @Length(1, 60) part!: string;
  @ValidateIf((o: ShareCommand) => o.triangles !== null) @IsInt() @Min(1) @Max(1e8) triangles!: number | null;
}
export class TieCommand {
  @Equals('form.tie') type!: string;
  @IsString() @Length(1, 200) key!: string;
  @IsString() @Length(1, 200) label!: string;
  @ValidateIf((o: TieCommand) => o.to !== null) @IsString() @Length(1, 200) to!: string | null;
}
export class UnwrapCommand {
  @Equals('unwrap.set') type!: string;
  @IsDefined() @ValidateNested() @Type(() => UnwrapPatchShape) patch!: UnwrapPatchShape;
}
export class BakeCommand {
  @Equals('bake.set') type!: string;
  @IsDefined() @ValidateNested() @Type(() => BakePatchShape) patch!: BakePatchShape;
}
export class WaiveCommand {
  @Equals('waive') type!: string;
  @IsDefined() @ValidateNested() @Type(() => WaiverShape) waiver!: WaiverShape;
}
export class UnwaiveCommand {
  @Equals('unwaive') type!: string;
  @IsString() @Length(1, 300) finding!: string;
}
export class MeshCommand {
  @Equals('mesh.replace') type!: string;
  @IsString() @Length(1, 60) part!: string;
  @IsDefined() @ValidateNested() @Type(() => MeshRefShape) low!: MeshRefShape;
  @Maybe() @IsArray() @ArrayMinSize(1) @ArrayMaxSize(10_000) @CheckedBy(checkPlacements) placements?: number[][];
  @IsString() @Length(1, 120) what!: string;
}
export class PairCommand {
  @Equals('high.pair') type!: string;
  @IsString() @Length(1, 60) part!: string;
  @ValidateIf((o: PairCommand) => o.high !== null) @IsDefined() @ValidateNested() @Type(() => HighShape) high!: HighShape | null;
}

export const COMMANDS = {
  rename: RenameCommand,
  'brief.set': BriefCommand,
  'part.add': PartAddCommand,
  'part.remove': PartRemoveCommand,
  'part.set': PartSetCommand,
  'step.add': StepWriteCommand,
  'step.set': StepWriteCommand,
  'step.remove': StepRemoveCommand,
  'step.move': StepMoveCommand,
  'dimension.set': DimensionCommand,
  'dimension.remove': DimensionRemoveCommand,
  'reference.set': ReferenceCommand,
  'reference.remove': ReferenceRemoveCommand,
  'region.set': RegionCommand,
  'region.remove': RegionRemoveCommand,
  'parts.move': PartsMoveCommand,
  'travel.set': TravelCommand,
  'relation.set': RelationCommand,
  'relation.remove': RelationRemoveCommand,
  'seams.set': SeamsCommand,
  'form.counts': CountsCommand,
  'form.lock': LockCommand,
  'form.share': ShareCommand,
  'form.tie': TieCommand,
  'unwrap.set': UnwrapCommand,
  'bake.set': BakeCommand,
  ...LOOK_COMMANDS,
  waive: WaiveCommand,
  unwaive: UnwaiveCommand,
  'mesh.replace': MeshCommand,
  'high.pair': PairCommand,
} as const;

export class EditRequest {
  @IsInt() @Min(1) baseVersion!: number;
  @IsObject() command!: { type?: unknown };
}
export class HistoryRequest {
  @IsInt() @Min(1) baseVersion!: number;
  @IsIn(['undo', 'redo']) direction!: 'undo' | 'redo';
}
export class NewAssetRequest {
  @IsString() @Length(1, 120) name!: string;
  @IsIn(['game', 'product', 'closeup', 'own']) purpose!: 'game' | 'product' | 'closeup' | 'own';
}
export class AssetPatchRequest {
  @IsBoolean() deleted!: boolean;
}
export class ResultRequest {
  @Matches(HASH) hash!: string;
  @IsObject() figures!: object;
  @IsObject() blobs!: Record<string, string>;
  @Maybe() @Matches(HASH) thumbnail?: string;
}
export class TrialRequest {
  @IsIn(['form', 'unwrap', 'bake', 'surface', 'light', 'render']) stage!: string;
  @IsString() @Length(1, 120) title!: string;
  @IsObject() settings!: Record<string, unknown>;
  @IsObject() figures!: Record<string, number | string>;
  @IsInt() @Min(0) @Max(1e9) milliseconds!: number;
  @Maybe() @Matches(HASH) thumbnail?: string;
}
export class TrialPatchRequest {
  @Maybe() @IsIn(['open', 'kept', 'dropped']) verdict?: string;
  @Maybe() @IsString() @MaxLength(500) note?: string;
}
export class JobRequest {
  @IsInt() @Min(1) baseVersion!: number;
  @Maybe() @IsInt() @Min(0) @Max(1e8) forecastSeconds?: number;
}
export class JobPatchRequest {
  @Equals(true) stop!: boolean;
}
