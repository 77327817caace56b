import { Type } from 'class-transformer';
import {
  ArrayMaxSize,
  ArrayMinSize,
  ArrayUnique,
  Equals,
  IsArray,
  IsBoolean,
  IsDefined,
  IsIn,
  IsInt,
  IsString,
  Length,
  Max,
  Min,
  ValidateNested,
} from 'class-validator';
import { InputError } from '../../errors';
import type { Px } from '../../photo/match';
import type { Corner, Photo, PhotoEdge, PhotoLens, PhotoPin } from '../../photo/photo';
import { Between, CheckedBy, FAR, IsBlob, IsId, IsNumbers, Maybe } from './checks';
import { type CommandKind, withOne } from './command';

/** A photograph’s sides, px: 8 000 × 6 000 and more. */
const MOST_PX = 20_000;

class LensShape implements PhotoLens {
  @Maybe() @Between(0.1, 10_000) focalMm?: number;
  @Maybe() @Between(1, 10_000) focal35Mm?: number;
  @Maybe() @IsNumbers(2, 1, 1e6) takenPx?: Px;
}
class EdgeShape implements PhotoEdge {
  @IsId() id!: string;
  @IsIn([0, 1, 2]) axis!: 0 | 1 | 2;
  @IsArray() @ArrayMinSize(2) @ArrayMaxSize(64) @CheckedBy(checkPoints) points!: Px[];
}
/** Handles may be pulled a little out of the picture: an edge often goes on there. */
function checkPoints(points: unknown): void {
  const isPx = (p: unknown) => Array.isArray(p) && p.length === 2 && p.every((x) => Number.isFinite(x) && Math.abs(x) <= 2 * MOST_PX);
  if (!Array.isArray(points) || !points.every(isPx)) throw new InputError('photo/points', 'an edge has places that are no pixels.');
}
class PinShape implements PhotoPin {
  @IsArray() @ArrayMinSize(3) @ArrayMaxSize(3) @IsIn([0, 1], { each: true }) corner!: Corner;
  @IsNumbers(2, -2 * MOST_PX, 2 * MOST_PX) at!: Px;
}
class KnownShape {
  @IsIn([0, 1, 2]) axis!: 0 | 1 | 2;
  @Between(1e-3, FAR) mm!: number;
}

/** A photograph as a request may hold it. */
export class PhotoShape implements Photo {
  @IsId() id!: string;
  @IsString() @Length(1, 120) name!: string;
  @IsBlob() blob!: string;
  @IsInt() @Min(16) @Max(MOST_PX) widthPx!: number;
  @IsInt() @Min(16) @Max(MOST_PX) heightPx!: number;
  @IsDefined() @ValidateNested() @Type(() => LensShape) lens!: LensShape;
  @Maybe() @Between(0.5, 1000) sensorMm?: number;
  @Maybe() @IsBoolean() lensHeld?: boolean;
  @Maybe() @IsBoolean() cropped?: boolean;
  @Maybe() @IsBoolean() bends?: boolean;
  @IsArray()
  @ArrayMaxSize(200)
  @ArrayUnique((e: EdgeShape) => e.id)
  @ValidateNested({ each: true })
  @Type(() => EdgeShape)
  edges!: EdgeShape[];
  @IsArray()
  @ArrayMaxSize(8)
  @ArrayUnique((p: PinShape) => String(p.corner))
  @ValidateNested({ each: true })
  @Type(() => PinShape)
  pins!: PinShape[];
  @Maybe() @IsId() part?: string;
  @Maybe() @ValidateNested() @Type(() => KnownShape) known?: KnownShape;
  @Maybe() @IsBoolean() left?: boolean;
}

class PhotoSet {
  @Equals('photo.set') type!: 'photo.set';
  @IsDefined() @ValidateNested() @Type(() => PhotoShape) photo!: Photo;
}

export const photoSet: CommandKind<PhotoSet> = {
  type: 'photo.set',
  shape: PhotoSet,
  blobs: ({ photo }) => [photo.blob],
  apply(d, { photo }) {
    d.photos = withOne(d.photos, photo);
  },
  words({ photo }, before) {
    const old = before.photos?.find((p) => p.id === photo.id);
    if (!old) return `brought the photograph ${photo.name}`;
    const [edges, pins] = [photo.edges.length - old.edges.length, photo.pins.length - old.pins.length];
    if (edges > 0) return `drew an edge on ${photo.name}`;
    if (edges < 0) return `removed ${edges === -1 ? 'an edge' : `${-edges} edges`} from ${photo.name}`;
    if (pins !== 0) return `${pins > 0 ? 'put a corner on' : 'took a corner off'} ${photo.name}`;
    return `changed what is drawn on ${photo.name}`;
  },
  touches: ({ photo }) => [`photo/${photo.id}`],
};
