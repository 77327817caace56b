import { Type } from 'class-transformer';
import { ArrayMaxSize, ArrayMinSize, Equals, IsArray, IsDefined, IsString, Length, ValidateNested } from 'class-validator';
import { InputError } from '../../errors';
import { checkPlacements, type Mat4 } from '../../maths/mat4';
import type { MeshRef } from '../document';
import { CheckedBy, IsId, Maybe } from './checks';
import { type CommandKind, partIn, partName } from './command';
import { MeshRefShape } from './mesh';

class MeshReplace {
  @Equals('mesh.replace') type!: 'mesh.replace';
  @IsId() part!: string;
  @IsDefined() @ValidateNested() @Type(() => MeshRefShape) low!: MeshRef;
  /** Where its copies stand, when that changed. */
  @Maybe() @IsArray() @ArrayMinSize(1) @ArrayMaxSize(10_000) @CheckedBy(checkPlacements) placements?: Mat4[];
  @IsString() @Length(1, 120) what!: string;
}

export const meshReplace: CommandKind<MeshReplace> = {
  type: 'mesh.replace',
  shape: MeshReplace,
  blobs: ({ low }) => [low.blob],
  apply(d, { part, low, placements }) {
    const p = partIn(d, part);
    if (p.shape.kind !== 'mesh') throw new InputError('command/mesh', `“${p.name}” is made by steps; mend it there.`);
    p.shape.low = low;
    if (placements) p.shape.placements = placements;
  },
  words: ({ part, what }, before) => `${what} on ${partName(before, part)}`,
  touches: ({ part }) => [`part/${part}/mesh`],
};
