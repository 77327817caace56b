import { Equals } from 'class-validator';
import type { Vec3 } from '../../maths/vec3';
import { millimetres } from '../../units/lengths';
import { FAR, IsNumbers } from './checks';
import type { CommandKind } from './command';

class PartsMove {
  @Equals('parts.move') type!: 'parts.move';
  /** All parts together: where the piece’s own origin lies. */
  @IsNumbers(3, -FAR, FAR) by!: Vec3;
}

export const partsMove: CommandKind<PartsMove> = {
  type: 'parts.move',
  shape: PartsMove,
  apply(d, { by }) {
    for (const p of d.parts) p.move = [p.move[0] + by[0], p.move[1] + by[1], p.move[2] + by[2]];
  },
  words: ({ by }) => `moved the piece by ${by.map((x) => millimetres(x)).join(', ')}`,
  touches: () => ['part/*/move'],
};
