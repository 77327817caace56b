import { Type } from 'class-transformer';
import { Equals, IsDefined, IsInt, Max, Min, ValidateNested } from 'class-validator';
import type { SurfaceChoices } from '../document';
import { Maybe } from './checks';
import { type CommandKind, fieldsOf, under } from './command';

/** What of a set’s settings a request may change. */
export class SurfacePatch implements Partial<SurfaceChoices> {
  @Maybe() @IsInt() @Min(0) @Max(2 ** 31) seed?: number;
}

class SurfaceSet {
  @Equals('surface.set') type!: 'surface.set';
  @IsDefined() @ValidateNested() @Type(() => SurfacePatch) patch!: Partial<SurfaceChoices>;
}

export const surfaceSet: CommandKind<SurfaceSet> = {
  type: 'surface.set',
  shape: SurfaceSet,
  apply(d, { patch }) {
    Object.assign(d.surface, patch);
  },
  words: ({ patch }) => `set the surface: ${fieldsOf(patch)}`,
  touches: ({ patch }) => under('surface', patch),
};
