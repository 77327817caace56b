import { Type } from 'class-transformer';
import { Equals, IsBoolean, IsDefined, IsIn, IsInt, Max, Min, ValidateNested } from 'class-validator';
import type { RenderChoices } from '../document';
import { Between, Maybe } from './checks';
import { type CommandKind, fieldsOf, under } from './command';

/** What of a picture’s settings a request may change. */
export class RenderPatch implements Partial<RenderChoices> {
  @Maybe() @IsIn(['samples', 'noise']) until?: RenderChoices['until'];
  @Maybe() @IsInt() @Min(2) @Max(65536) samples?: number;
  @Maybe() @Between(0.0002, 0.5) noise?: number;
  @Maybe() @IsInt() @Min(0) @Max(2 ** 31) seed?: number;
  @Maybe() @IsBoolean() maps?: boolean;
}

class RenderSet {
  @Equals('render.set') type!: 'render.set';
  @IsDefined() @ValidateNested() @Type(() => RenderPatch) patch!: Partial<RenderChoices>;
}

export const renderSet: CommandKind<RenderSet> = {
  type: 'render.set',
  shape: RenderSet,
  apply(d, { patch }) {
    Object.assign(d.render, patch);
  },
  words: ({ patch }) => `set the render: ${fieldsOf(patch)}`,
  touches: ({ patch }) => under('render', patch),
};
