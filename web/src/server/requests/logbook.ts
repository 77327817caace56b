import 'reflect-metadata';
import { IsId, Maybe } from '@wellmorph/core/pipeline/commands/checks';
import { PLANNED, type PlannedStage } from '@wellmorph/core/plan/forecast';
import { Type } from 'class-transformer';
import {
  ArrayMaxSize,
  ArrayMinSize,
  IsArray,
  IsBoolean,
  IsDefined,
  IsIn,
  IsInt,
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
import { LESSON_KINDS, type LessonKind, type SnagPlace } from '../db/schema';
import { TakeRequest } from './shapes';

/** What requests about the logbook and the plan may hold. */

const finite = { allowNaN: false, allowInfinity: false };

/** Which runs, as an address says it: everything comes as text. */
export class RunsQuery {
  @Maybe() @IsString() @MaxLength(20) stage?: string;
  @Maybe() @IsString() @MaxLength(60) asset?: string;
  @Maybe() @IsString() @MaxLength(80) material?: string;
  @Maybe() @IsString() @MaxLength(20) role?: string;
  @Maybe() @IsIn(['open', 'kept', 'dropped']) verdict?: string;
  @Maybe() @IsString() @MaxLength(60) sweep?: string;
  @Maybe() @Type(() => Number) @IsNumber(finite) @Min(0) minMm?: number;
  @Maybe() @Type(() => Number) @IsNumber(finite) @Min(0) maxMm?: number;
  @Maybe() @IsString() @MaxLength(120) search?: string;
  @Maybe() @IsString() @MaxLength(90) sort?: string;
  @Maybe() @IsIn(['asc', 'desc']) order?: 'asc' | 'desc';
  @Maybe() @Type(() => Number) @IsInt() @Min(0) @Max(1e6) page?: number;
  @Maybe() @Type(() => Number) @IsInt() @Min(1) @Max(500) size?: number;
}
export class ExportQuery extends RunsQuery {
  @IsIn(['csv', 'json']) format!: 'csv' | 'json';
}
export class IdsQuery {
  @IsString() @MaxLength(400) ids!: string;
}
export class SuggestionsQuery {
  @IsId() asset!: string;
  @IsIn(['unwrap', 'bake', 'render']) stage!: string;
}
class OtherShape {
  @IsId() run!: string;
  @IsString() @Length(1, 80) key!: string;
}
export class UseRunRequest extends TakeRequest {
  /** The piece that is set as the run was. */
  @IsId() asset!: string;
  /** One setting that is as another run had it. */
  @Maybe() @ValidateNested() @Type(() => OtherShape) other?: OtherShape;
}

export class LessonRequest {
  @IsString() @Length(1, 300) sentence!: string;
  @IsIn(LESSON_KINDS) kind!: LessonKind;
  @IsString() @Length(1, 80) subject!: string;
  @Maybe() @IsId() trial?: string;
}
export class LessonPatchRequest {
  @Maybe() @IsString() @Length(1, 300) sentence?: string;
  @Maybe() @IsBoolean() removed?: boolean;
}

class PlaceShape implements SnagPlace {
  @IsArray() @ArrayMinSize(3) @ArrayMaxSize(3) @IsNumber(finite, { each: true }) at!: [number, number, number];
  @ValidateIf((o: PlaceShape) => o.part !== null) @IsId() part!: string | null;
}
export class SnagRequest {
  @IsString() @Length(1, 300) words!: string;
  @IsNumber(finite) @Min(0) @Max(6000) minutes!: number;
  @Maybe() @ValidateNested() @Type(() => PlaceShape) place?: PlaceShape;
}
export class SnagPatchRequest {
  @Maybe() @IsString() @Length(1, 300) words?: string;
  @Maybe() @IsNumber(finite) @Min(0) @Max(6000) minutes?: number;
  @Maybe() @IsBoolean() done?: boolean;
  @Maybe() @IsBoolean() removed?: boolean;
}

export class StateRequest {
  @IsString() @Length(1, 80) name!: string;
  @IsInt() @Min(1) baseVersion!: number;
}
export class StateForgetRequest {
  @IsBoolean() forget!: boolean;
}

class AxisShape {
  @IsString() @Length(1, 120) key!: string;
  @IsArray() @ArrayMinSize(1) @ArrayMaxSize(36) @IsNumber(finite, { each: true }) values!: number[];
}
export class SweepRequest {
  /** Which variant of the piece; itself when absent. */
  @Maybe() @IsId() variant?: string;
  @IsInt() @Min(1) baseVersion!: number;
  @IsArray()
  @ArrayMinSize(1)
  @ArrayMaxSize(2)
  @IsDefined({ each: true })
  @ValidateNested({ each: true })
  @Type(() => AxisShape)
  axes!: AxisShape[];
}

export class FiltersRequest {
  @IsObject() filters!: Record<string, object>;
}

const DAY = /^\d{4}-\d{2}-\d{2}$/;
/** The day it is where somebody asks. */
export class DayQuery {
  @Matches(DAY) day!: string;
}
class HoursShape {
  @IsArray() @ArrayMinSize(7) @ArrayMaxSize(7) @IsNumber(finite, { each: true }) week!: [
    number,
    number,
    number,
    number,
    number,
    number,
    number,
  ];
  @IsArray() @ArrayMaxSize(400) @Matches(DAY, { each: true }) off!: string[];
  @IsNumber(finite) @Min(0) @Max(24) machine!: number;
}
export class PlanRequest {
  @Maybe() @ValidateNested() @Type(() => HoursShape) hours?: HoursShape;
  /** Ids of pieces in the order they were put in by hand. */
  @Maybe() @IsArray() @ArrayMaxSize(2000) @IsString({ each: true }) order?: string[];
}
class QueueHoursShape {
  @IsNumber(finite) @Min(0) @Max(24) from!: number;
  @IsNumber(finite) @Min(0) @Max(24) to!: number;
}
export class QueueRequest {
  @Maybe() @IsIn(['asked', 'due']) order?: 'asked' | 'due';
  @Maybe() @ValidateIf((o: QueueRequest) => o.hours !== null) @ValidateNested() @Type(() => QueueHoursShape) hours?: QueueHoursShape | null;
  @Maybe() @IsBoolean() held?: boolean;
}
export class SpentRequest {
  @IsIn(PLANNED) stage!: PlannedStage;
  @Matches(DAY) day!: string;
  @IsNumber(finite) @Min(0) @Max(3600) seconds!: number;
}
/** Minutes of a stage put right by hand: what it should come to on that day. */
export class SpentSetRequest {
  @IsIn(PLANNED) stage!: PlannedStage;
  @Matches(DAY) day!: string;
  @IsNumber(finite) @Min(0) @Max(1440) minutes!: number;
}
