import { FormError } from '../../errors';
import { joinRims } from '../../mesh/join-rims';
import { meshTree } from '../../rays/of-mesh';
import { RayQuery } from '../../rays/query';
import { figure } from '../../units/lengths';
import { choice, plain } from '../fields';
import { ownPatch, type StepBase, type StepKind } from '../step';

/** Joins the rims of the step right above it to everything above that: a handle to its body. */
export interface JoinStep extends StepBase {
  kind: 'join';
  phase: 'as it is' | 'half' | 'best';
  margin: number;
}

export const join = {
  kind: 'join',
  name: 'join rims',
  about:
    'Joins the open rims, or flat ends, of the step above to the body over it: the rim chooses and opens the body’s faces, and the ring between is filled with quads.',
  fields: [
    choice('phase', 'Rims against edges', [
      ['best', 'whichever pinches less'],
      ['as it is', 'edge on edge'],
      ['half', 'turned by half a side'],
    ]),
    plain('margin', 'Room round the rim', 0.02, 2, { hint: 'rim widths' }),
  ],
  fresh: () => ({ name: 'Join', phase: 'best' as const, margin: 0.15 }),
  words: (s: JoinStep) => (s.phase === 'half' ? 'joined, half a side on' : 'joined'),
  changer: {
    apart: true,
    change(step: JoinStep, mesh, _detail, _around, last) {
      if (!last) throw new FormError('join/one', `“${step.name}” needs two steps above it: a body, and the piece that is joined to it.`);
      const query = new RayQuery(meshTree(mesh));
      const made = joinRims(mesh, last, {
        phase: step.phase,
        margin: step.margin,
        patch: ownPatch(step, 'collar'),
        cast: (o, d) => (query.closest(o[0], o[1], o[2], d[0], d[1], d[2], 0, 1e9) ? { t: query.t, triangle: query.triangle } : null),
      });
      return {
        mesh: made.mesh,
        figures: [
          { label: 'rims joined', value: made.joined, unit: '' },
          { label: 'quads, and triangles', value: made.quads, to: made.triangles, unit: '' },
          { label: 'worst pinch', value: made.pinch, unit: ': 1' },
          ...made.counts.map((c, i) => ({ label: `rim ${i + 1}: sides, and of its opening`, value: c.rim, to: c.opening, unit: '' })),
        ],
        ...(made.triangles > 0 && {
          notes: [
            {
              code: 'join/counts',
              message: `“${step.name}” needs ${figure(made.triangles, 0)} triangles where counts differ (${made.counts.map((c) => `${c.rim} against ${c.opening}`).join(', ')}); fix the counts alike for quads all round.`,
              value: made.triangles,
              limit: 0,
              unit: 'triangles',
            },
          ],
        }),
      };
    },
  },
} satisfies StepKind<JoinStep>;
