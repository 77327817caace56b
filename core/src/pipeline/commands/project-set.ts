import { Type } from 'class-transformer';
import { ArrayMaxSize, Equals, IsArray, IsBoolean, IsDefined, IsIn, IsInt, IsString, Max, Min, ValidateNested } from 'class-validator';
import type { ProjectChoices } from '../../photo/photo';
import { Maybe } from './checks';
import { type CommandKind, fieldsOf, under } from './command';

/** What of projecting a request may change. */
export class ProjectPatch implements Partial<ProjectChoices> {
  @Maybe() @IsBoolean() on?: boolean;
  @Maybe() @IsInt() @Min(64) @Max(8192) size?: number;
  @Maybe() @IsIn(['plain', 'across-x', 'across-z']) blind?: ProjectChoices['blind'];
  @Maybe() @IsBoolean() unlit?: boolean;
  @Maybe() @IsArray() @ArrayMaxSize(20_000) @IsString({ each: true }) left?: string[];
}

class ProjectSet {
  @Equals('project.set') type!: 'project.set';
  @IsDefined() @ValidateNested() @Type(() => ProjectPatch) patch!: Partial<ProjectChoices>;
}

export const projectSet: CommandKind<ProjectSet> = {
  type: 'project.set',
  shape: ProjectSet,
  apply(d, { patch }) {
    // What nobody decided goes on following the brief.
    d.project = { ...d.project, ...patch };
    // A piece is handed over as one set: the photographs’, or the gathered one.
    if (patch.on && d.gather?.on) d.gather = { ...d.gather, on: false };
  },
  words: ({ patch }) => `set how photographs are laid on: ${fieldsOf(patch)}`,
  touches: ({ patch }) => [...under('project', patch), ...(patch.on ? ['gather/on'] : [])],
};
