import { FormError } from '../../errors';
import { dent, dentsOn, STEEPEST } from '../../mesh/dents';
import { figure, millimetres } from '../../units/lengths';
import { facesOf, regionField } from '../changers';
import { size, whole } from '../fields';
import type { StepBase, StepKind } from '../step';

/** Dents everything above it where it was knocked, seeded. Lengths in mm. */
export interface DentsStep extends StepBase {
  kind: 'dents';
  count: number;
  seed: number;
  smallest: number;
  largest: number;
  depth: number;
  region?: string;
}

export const dents = {
  kind: 'dents',
  name: 'dents',
  about:
    'Presses everything above it in where it was knocked: seeded places, sizes and depths in mm. Both sides of a wall go in together, and nothing crosses.',
  fields: [
    whole('count', 'Dents', 1, 200),
    whole('seed', 'Which arrangement', 0, 1_000_000),
    size('smallest', 'Smallest radius'),
    size('largest', 'Largest radius'),
    size('depth', 'Deepest'),
    regionField(),
  ],
  fresh: () => ({ name: 'Dents', count: 5, seed: 1, smallest: 3, largest: 9, depth: 0.8 }),
  words: (s: DentsStep, length) => `${figure(s.count, 0)} up to ${length(s.depth, 1)} deep`,
  changer: {
    change(step: DentsStep, mesh, detail, around) {
      if (step.largest < step.smallest)
        throw new FormError(
          'dents/sizes',
          `The largest of “${step.name}” (${figure(step.largest)}) is smaller than its smallest (${figure(step.smallest)}).`,
        );
      const most = STEEPEST * step.largest;
      if (step.depth >= most)
        throw new FormError(
          'dents/steep',
          `Dents of ${millimetres(step.largest)} can be anything below ${millimetres(most)} deep without folding; “${step.name}” says ${figure(step.depth)}.`,
          {
            mostMm: most,
          },
        );
      const places = dentsOn(mesh, step, facesOf(step, mesh, around));
      // A dent is as deep as its sagitta over an edge allows to show: an edge of l hides l² · curvature / 8 of it, at most 8 depth / radius².
      const fine = (tolerance: number) => (d: { radius: number; depth: number }) =>
        Math.max(d.radius / 10, Math.min(d.radius / 2, d.radius * Math.sqrt(tolerance / Math.max(d.depth, 1e-6))));
      return { mesh: dent(mesh, places, detail.mesh === 'high' ? fine(4 * detail.toleranceMm) : undefined) };
    },
  },
} satisfies StepKind<DentsStep>;
