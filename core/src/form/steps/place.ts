import { placement } from '../../maths/mat4';
import { angle, place as at } from '../fields';
import type { StepBase, StepKind } from '../step';

/** Moves everything before it in the part: turned about x, then y, then z, then moved. */
export interface PlaceStep extends StepBase {
  kind: 'place';
  x: number;
  y: number;
  z: number;
  turnX: number;
  turnY: number;
  turnZ: number;
}

export const place = {
  kind: 'place',
  name: 'set in place',
  about: 'Moves and turns everything above it: before an array, or to stand beside another step.',
  fields: [
    at('x', 'Move along x'),
    at('y', 'Move along y'),
    at('z', 'Move along z'),
    angle('turnX', 'Turn about x'),
    angle('turnY', 'Turn about y'),
    angle('turnZ', 'Turn about z'),
  ],
  fresh: () => ({ name: 'In place', x: 0, y: 0, z: 0, turnX: 0, turnY: 0, turnZ: 0 }),
  words: (s: PlaceStep, length) => `moved ${[s.x, s.y, s.z].map((x) => length(x, 1)).join(', ')}`,
  copies: (s: PlaceStep) => [placement([s.x, s.y, s.z], [s.turnX, s.turnY, s.turnZ])],
} satisfies StepKind<PlaceStep>;
