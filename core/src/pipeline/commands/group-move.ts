import { Equals } from 'class-validator';
import { InputError } from '../../errors';
import { anglesOf, multiply, placement, translation } from '../../maths/mat4';
import { mapVec, type Vec3 } from '../../maths/vec3';
import { millimetres } from '../../units/lengths';
import { FAR, IsId, IsNumbers } from './checks';
import type { CommandKind } from './command';

class GroupMove {
  @Equals('group.move') type!: 'group.move';
  @IsId() group!: string;
  /** How far, mm, after it was turned. */
  @IsNumbers(3, -FAR, FAR) by!: Vec3;
  /** About axes through a point, as parts are turned, degrees. */
  @IsNumbers(3, -360, 360) turnDegrees!: Vec3;
  @IsNumbers(3, -FAR, FAR) about!: Vec3;
}

/** Kept figures stay short: a billionth of a millimetre is nothing. */
const tidy = (x: number): number => Math.round(x * 1e9) / 1e9 + 0;

export const groupMove: CommandKind<GroupMove> = {
  type: 'group.move',
  shape: GroupMove,
  apply(d, { group, by, turnDegrees, about }) {
    const mine = d.parts.filter((p) => p.group === group);
    if (mine.length === 0) throw new InputError('command/group', 'The group this change is for has no parts any more.');
    const turns = turnDegrees.some((x) => x !== 0);
    const there = multiply(
      translation(mapVec(about, (x, k) => x + by[k])),
      multiply(placement([0, 0, 0], turnDegrees), translation(mapVec(about, (x) => -x))),
    );
    for (const p of mine) {
      const m = multiply(there, placement(p.move, p.turnDegrees));
      p.move = turns ? [tidy(m[12]), tidy(m[13]), tidy(m[14])] : mapVec(p.move, (x, k) => tidy(x + by[k]));
      if (turns) p.turnDegrees = mapVec(anglesOf(m), tidy);
    }
  },
  words: ({ group, by, turnDegrees }, before) =>
    `moved the group ${before.groups?.find((g) => g.id === group)?.name ?? ''} by ${by.map((x) => millimetres(x)).join(', ')}${turnDegrees.some((x) => x !== 0) ? ' and turned it' : ''}`,
  touches: () => ['part/*/move', 'part/*/turnDegrees'],
};
