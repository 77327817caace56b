import { Equals, IsIn, IsString, Length } from 'class-validator';
import { InputError } from '../../errors';
import type { Vec3 } from '../../maths/vec3';
import { originalOf } from '../document';
import { FAR, IsId, IsNumbers, OrNull } from './checks';
import { type CommandKind, partIn, partName } from './command';

class PartCopy {
  @Equals('part.copy') type!: 'part.copy';
  /** The part that is copied; of a copy, what that is one of. */
  @IsId() part!: string;
  /** Id and name of the copy. */
  @IsId() id!: string;
  @IsString() @Length(1, 80) name!: string;
  @OrNull() @IsIn(['x', 'y', 'z']) mirror!: 'x' | 'y' | 'z' | null;
  @IsNumbers(3, -FAR, FAR) move!: Vec3;
  @IsNumbers(3, -FAR, FAR) turnDegrees!: Vec3;
}

/** What a copy begins with. */
const TAKEN = ['role', 'material', 'weight', 'grain', 'pxPerCm', 'declaredOpen', 'loose', 'aid', 'group'];

export const partCopy: CommandKind<PartCopy> = {
  type: 'part.copy',
  shape: PartCopy,
  apply(d, { part, id, name, mirror, move, turnDegrees }) {
    const from = partIn(d, part);
    if (d.parts.some((p) => p.id === id)) throw new InputError('command/id', 'A part with that id is there already.');
    const original = originalOf(d, from);
    const { role, material, weight, grain, pxPerCm, declaredOpen, loose, aid, group } = from;
    d.parts.splice(d.parts.indexOf(from) + 1, 0, {
      id,
      name,
      role,
      material,
      weight,
      declaredOpen,
      ...(grain && { grain }),
      ...(pxPerCm && { pxPerCm }),
      ...(loose && { loose }),
      ...(aid && { aid }),
      ...(group && { group }),
      move,
      turnDegrees,
      shape: { kind: 'copy', of: original.id, mirror },
    });
  },
  words: ({ part, mirror }, before) =>
    `${mirror ? `mirrored ${partName(before, part)} across ${mirror}` : `copied ${partName(before, part)}`}`,
  // What it takes over is decided by whoever changes that.
  touches: ({ part, id }) => [`part/${id}`, ...TAKEN.map((field) => `part/${part}/${field}`)],
};
