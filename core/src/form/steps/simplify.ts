import { type Deviation, deviation } from '../../inspect/deviation';
import { needed } from '../../kit';
import { type PolyMesh, triangleCount } from '../../mesh/polymesh';
import { Simplifiable } from '../../mesh/simplify';
import { figure } from '../../units/lengths';
import { regionField } from '../changers';
import { length, whole } from '../fields';
import type { StepBase, StepKind } from '../step';

/** Brings a dense mesh down to a number of triangles. */
export interface SimplifyStep extends StepBase {
  kind: 'simplify';
  /** As few as this. */
  triangles: number;
  /** The farthest the surface may lie from what it was, mm; 0 or absent, and it may lie anywhere. */
  within?: number;
  /** A region that stays as it is. */
  region?: string;
}

export const simplify = {
  kind: 'simplify',
  name: 'simplify',
  about: 'Takes triangles away where they matter least, down to a number; how far the surface then lies from what it was is measured.',
  fields: [
    whole('triangles', 'Triangles', 4, 5_000_000),
    length('within', 'No farther off than', { hint: '0: as far as it takes', optional: true }),
    regionField('Left as it is', { none: 'nothing' }),
  ],
  fresh: () => ({ name: 'Simplify', triangles: 1000, within: 0 }),
  needs: ['simplifier'],
  words: (s: SimplifyStep, length) => (s.within ? `within ${length(s.within, 3)}` : `to ${figure(s.triangles, 0)} triangles`),
  changer: {
    change(step: SimplifyStep, mesh, _detail, around) {
      if (triangleCount(mesh) <= step.triangles) return { mesh };
      const keep = step.region ? around.own(step.region, mesh) : undefined;
      const ready = new Simplifiable(needed(around.kit, 'simplifier'), mesh, keep);
      const { out, off } = step.within
        ? bounded(ready, step.triangles, step.within)
        : measured(ready, ready.built(ready.to({ triangles: step.triangles })));
      const short = !step.within && triangleCount(out) > step.triangles * 1.02;
      return {
        mesh: out,
        figures: [
          { label: 'triangles', value: triangleCount(out), unit: '' },
          { label: 'farthest off', value: off.most, unit: 'mm' },
          { label: 'off on average', value: off.mean, unit: 'mm' },
        ],
        ...(short && {
          notes: [
            {
              code: 'simplify/short',
              message: `“${step.name}” stops at ${figure(triangleCount(out), 0)} triangles: borders that have to stay don’t let it come to ${figure(step.triangles, 0)}.`,
              value: triangleCount(out),
              limit: step.triangles,
              unit: 'triangles',
            },
          ],
        }),
      };
    },
  },
} satisfies StepKind<SimplifyStep>;

/** Bounds that are tried at most, each tighter than the last. */
const TRIES = 6;
/** What is aimed at below a bound that was passed. */
const BELOW = 0.9;

const measured = ({ mesh }: Simplifiable, out: PolyMesh): { out: PolyMesh; off: Deviation } => ({ out, off: deviation(mesh, out) });

/** As few triangles as there can be without the surface lying farther off than a bound, as measured: the library only estimates it. */
function bounded(ready: Simplifiable, triangles: number, within: number): { out: PolyMesh; off: Deviation } {
  let errorMm = within;
  for (let tries = 0; tries < TRIES; tries++) {
    const made = measured(ready, ready.built(ready.to({ triangles, errorMm })));
    if (made.off.most <= within) return made;
    errorMm *= Math.min(BELOW, (BELOW * within) / made.off.most);
  }
  return { out: ready.mesh, off: { most: 0, mean: 0 } };
}
