import { FormError } from '../../errors';
import { joinRims } from '../../mesh/join-rims';
import { meshTree } from '../../rays/of-mesh';
import { RayQuery } from '../../rays/query';
import { figure } from '../../units/lengths';
import { ownPatch, type StepBase, type StepKind } from '../step';

/** Joins the rims of the step right above it to everything above that: a handle to its body. */
export interface JoinStep extends StepBase {
  kind: 'join';
}

export const join = {
  kind: 'join',
  name: 'join rims',
  about:
    'Joins the open rims, or flat ends, of the step above to the body over it: quads all round, whatever the counts of both, and no line that runs on over the body.',
  fields: [],
  fresh: () => ({ name: 'Join' }),
  words: () => 'joined',
  changer: {
    apart: true,
    change(step: JoinStep, mesh, _detail, _around, last) {
      if (!last) throw new FormError('join/one', `“${step.name}” needs two steps above it: a body, and the piece that is joined to it.`);
      const made = joinRims(mesh, last, {
        collar: ownPatch(step, 'collar'),
        apron: ownPatch(step, 'apron'),
        castOn(body) {
          const query = new RayQuery(meshTree(body));
          return (o, d) => (query.closest(o[0], o[1], o[2], d[0], d[1], d[2], 0, 1e9) ? { t: query.t, triangle: query.triangle } : null);
        },
      });
      return {
        mesh: made.mesh,
        figures: [
          { label: 'rims joined', value: made.joined, unit: '' },
          { label: 'quads, and triangles', value: made.quads, to: made.triangles, unit: '' },
          { label: 'worst face at a rim', value: made.pinch, unit: ': 1' },
          { label: 'worst face beyond', value: made.reach, unit: ': 1' },
          ...(made.divided > 0 ? [{ label: 'faces of the body divided', value: made.divided, unit: '' }] : []),
          ...made.counts.map((c, i) => ({ label: `rim ${i + 1}: sides, and of its opening`, value: c.rim, to: c.opening, unit: '' })),
        ],
        notes: [
          ...made.counts
            .filter((c) => Math.abs(c.rim - c.opening) % 4 === 2)
            .slice(0, 1)
            .map((c) => ({
              code: 'join/askew',
              message: `“${step.name}” stands a little askew: ${c.rim} sides don’t spread evenly over an opening of ${c.opening}; ${c.rim - 2} or ${c.rim + 2} would, or the body turned by half a side.`,
              value: c.rim,
              limit: c.opening,
              unit: 'sides',
            })),
          ...(made.triangles > 0
            ? [
                {
                  code: 'join/counts',
                  message: `“${step.name}” needs ${figure(made.triangles, 0)} ${made.triangles === 1 ? 'triangle' : 'triangles'}: a rim and its opening have counts of which one is odd and one even (${made.counts.map((c) => `${c.rim} against ${c.opening}`).join(', ')}).`,
                  value: made.triangles,
                  limit: 0,
                  unit: 'triangles',
                },
              ]
            : []),
        ],
      };
    },
  },
} satisfies StepKind<JoinStep>;
