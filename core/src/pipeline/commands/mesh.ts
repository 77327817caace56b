import { ArrayMaxSize, IsIn, IsInt, IsString, Length, Matches, Max, Min } from 'class-validator';
import type { MeshRef, Part } from '../document';
import { IsBlob, Maybe } from './checks';

/** A stored mesh, as a request refers to it. */
export class MeshRefShape implements MeshRef {
  @IsBlob() blob!: string;
  @IsInt() @Min(0) @Max(1e9) triangles!: number;
}
type High = NonNullable<Part['high']>;
/** A stored dense mesh in its part's space. */
export class HighShape extends MeshRefShape implements High {
  @IsString() @Length(1, 120) name!: string;
  @IsIn(['name', 'place', 'hand']) pairedBy!: High['pairedBy'];
  @Maybe() @ArrayMaxSize(1000) @Matches(/^[0-9a-f]{64}$/, { each: true }) of?: string[];
}
