import { FormError } from '../../errors';
import { planeOffsets, roomAlong } from '../../mesh/offset';
import { millimetres } from '../../units/lengths';
import { place } from '../fields';
import type { StepBase, StepKind } from '../step';

/** Moves the surface of everything above it outward, or inward where `by` is negative. Lengths in mm. */
export interface GrowStep extends StepBase {
  kind: 'grow';
  by: number;
}

export const grow = {
  kind: 'grow',
  name: 'grow',
  about: 'Moves every face outward by one distance, or inward by a negative one: for a low mesh that lies inside its high one.',
  fields: [place('by', 'Outward')],
  fresh: () => ({ name: 'Grow', by: 0.5 }),
  words: (s: GrowStep, length) => `${length(Math.abs(s.by), 2)} ${s.by < 0 ? 'inward' : 'outward'}`,
  changer: {
    change(step: GrowStep, mesh) {
      const vectors = planeOffsets(mesh);
      const way = Math.sign(step.by);
      const room = roomAlong(mesh, way < 0 ? Float64Array.from(vectors, (x) => -x) : vectors).most;
      if (!(Math.abs(step.by) < room))
        throw new FormError(
          'grow/too-far',
          `“${step.name}” can move the surface by less than ${millimetres(room)} ${way < 0 ? 'inward' : 'outward'}, or an edge turns round.`,
          { mostMm: room },
        );
      return {
        mesh: { ...mesh, positions: mesh.positions.map((x, i) => x + step.by * vectors[i]) },
        figures: [{ label: way < 0 ? 'moved inward' : 'moved outward', value: Math.abs(step.by), unit: 'mm' }],
      };
    },
  },
} satisfies StepKind<GrowStep>;
