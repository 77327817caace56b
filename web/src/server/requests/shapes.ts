import 'reflect-metadata';
import { PURPOSES, type Purpose } from '@wellmorph/core/brief/brief';
import { IsBlob, IsId, Maybe, OrNull } from '@wellmorph/core/pipeline/commands/checks';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { KEPT, type Kept } from '@wellmorph/core/pipeline/results';
import { PLANNED } from '@wellmorph/core/plan/forecast';
import {
  ArrayMaxSize,
  IsArray,
  IsBoolean,
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
} from 'class-validator';

/** What requests may hold, beside the commands, which have a shape of their own each. */

/** Which request of which page it is; sent again, it gets the same answer. */
class OnceRequest {
  @IsInt() @Min(1) baseVersion!: number;
  @Matches(/^[\w-]{8,64}$/) clientId!: string;
  @IsInt() @Min(0) @Max(2 ** 31) seq!: number;
}
export class EditRequest extends OnceRequest {
  @IsObject() command!: { type?: unknown };
  /** The advice that is taken by it, in its words. */
  @Maybe() @IsString() @Length(1, 500) advice?: string;
}
export class HistoryRequest extends OnceRequest {
  @IsIn(['undo', 'redo']) direction!: 'undo' | 'redo';
}
export class TakeRequest extends OnceRequest {
  /** The variant that takes it up; the piece itself when absent. */
  @Maybe() @IsId() variant?: string;
}
export class PairRequest extends OnceRequest {
  @IsId() part!: string;
  @OrNull() @IsBlob() high!: string | null;
  /** Further meshes that it is baked from together with that one. */
  @Maybe() @ArrayMaxSize(1000) @Matches(/^[0-9a-f]{64}$/, { each: true }) also?: string[];
}
export class BringPieceRequest {
  @IsId() from!: string;
  @IsBoolean() frozen!: boolean;
}
export class NewerPieceRequest {
  @IsId() from!: string;
}
export class CutRequest {
  @IsString() @Length(1, 300) fileName!: string;
  @IsNumber({ allowNaN: false, allowInfinity: false }) toleranceMm!: number;
}
export class NewAssetRequest {
  @IsString() @Length(1, 120) name!: string;
  @IsIn(Object.keys(PURPOSES)) purpose!: Purpose;
}
export class AssetPatchRequest {
  @IsBoolean() deleted!: boolean;
}
export class ResultRequest {
  @IsIn(KEPT) stage!: Kept;
  @IsArray() @ArrayMaxSize(8) inputs!: (string | null)[];
  @IsObject() figures!: object;
  @IsObject() blobs!: Record<string, string>;
}
export class ThumbnailRequest {
  @IsBlob() thumbnail!: string;
  /** Name of the form it is a picture of. */
  @IsBlob() form!: string;
}
export class TrialRequest {
  @IsIn(PLANNED.slice(1)) stage!: string;
  @IsString() @Length(1, 120) title!: string;
  @IsObject() settings!: Record<string, unknown>;
  @IsObject() figures!: Record<string, number | string>;
  @IsInt() @Min(0) @Max(1e9) milliseconds!: number;
  @Maybe() @IsBlob() thumbnail?: string;
  /** The result it made, and the document it was made from. */
  @Maybe() @IsBlob() resultName?: string;
  @Maybe() @IsObject() snapshot?: AssetDocument;
  @Maybe() @IsNumber({ allowNaN: false, allowInfinity: false }) @Min(0) forecastSeconds?: number;
}
export class TrialPatchRequest {
  @Maybe() @IsIn(['open', 'kept', 'dropped']) verdict?: string;
  @Maybe() @IsString() @MaxLength(500) note?: string;
}
export class JobRequest {
  /** A picture when absent. */
  @Maybe() @IsIn(['render', 'bake']) kind?: 'render' | 'bake';
  @IsInt() @Min(1) baseVersion!: number;
  /** Which variant of the piece; itself when absent. */
  @Maybe() @IsId() variant?: string;
  @Maybe() @IsInt() @Min(0) @Max(1e8) forecastSeconds?: number;
}
export class JobPatchRequest {
  @IsIn(['stop', 'pause', 'resume', 'retry']) turn!: 'stop' | 'pause' | 'resume' | 'retry';
}
