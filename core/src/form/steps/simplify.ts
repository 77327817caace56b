import { deviation } from '../../inspect/deviation';
import { needed } from '../../kit';
import { triangleCount } from '../../mesh/polymesh';
import { simplify as simplified } from '../../mesh/simplify';
import { figure } from '../../units/lengths';
import { regionField } from '../changers';
import { whole } from '../fields';
import type { StepBase, StepKind } from '../step';

/** Brings a dense mesh down to a number of triangles. */
export interface SimplifyStep extends StepBase {
  kind: 'simplify';
  triangles: number;
  /** A region that stays as it is. */
  region?: string;
}

export const simplify = {
  kind: 'simplify',
  name: 'simplify',
  about: 'Takes triangles away where they matter least, down to a number; how far the surface then lies from what it was is measured.',
  fields: [whole('triangles', 'Triangles', 4, 5_000_000), regionField('Left as it is', { none: 'nothing' })],
  fresh: () => ({ name: 'Simplify', triangles: 1000 }),
  needs: ['simplifier'],
  words: (s: SimplifyStep) => `to ${figure(s.triangles, 0)} triangles`,
  changer: {
    change(step: SimplifyStep, mesh, _detail, around) {
      if (triangleCount(mesh) <= step.triangles) return { mesh };
      const keep = step.region ? around.own(step.region, mesh) : undefined;
      const out = simplified(needed(around.kit, 'simplifier'), mesh, { triangles: step.triangles, ...(keep && { keep }) });
      const off = deviation(mesh, out);
      const short = triangleCount(out) > step.triangles * 1.02;
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
