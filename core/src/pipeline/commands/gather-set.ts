import { Type } from 'class-transformer';
import { ArrayMaxSize, Equals, IsArray, IsBoolean, IsDefined, IsIn, IsInt, IsString, Max, Min, ValidateNested } from 'class-validator';
import type { GatherChoices } from '../document';
import { Maybe } from './checks';
import { type CommandKind, fieldsOf, under } from './command';

/** What of gathering a request may change. */
export class GatherPatch implements Partial<GatherChoices> {
  @Maybe() @IsBoolean() on?: boolean;
  @Maybe() @IsIn(['first', 'second']) to?: 'first' | 'second';
  @Maybe() @IsInt() @Min(64) @Max(8192) size?: number;
  @Maybe() @IsArray() @ArrayMaxSize(20_000) @IsString({ each: true }) left?: string[];
  @Maybe() @IsBoolean() apart?: boolean;
}

class GatherSet {
  @Equals('gather.set') type!: 'gather.set';
  @IsDefined() @ValidateNested() @Type(() => GatherPatch) patch!: Partial<GatherChoices>;
}

export const gatherSet: CommandKind<GatherSet> = {
  type: 'gather.set',
  shape: GatherSet,
  apply(d, { patch }) {
    // What nobody decided goes on following the brief.
    d.gather = { ...d.gather, ...patch };
    if (patch.on && d.project?.on) d.project = { ...d.project, on: false };
  },
  words: ({ patch }) => `set what is gathered: ${fieldsOf(patch)}`,
  touches: ({ patch }) => [...under('gather', patch), ...(patch.on ? ['project/on'] : [])],
};
