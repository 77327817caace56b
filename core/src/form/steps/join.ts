import { FormError } from '../../errors';
import { type Bevelled, bevel } from '../../mesh/bevel/bevel';
import { edgesOf, edgeValence } from '../../mesh/connectivity';
import { joinRims } from '../../mesh/join-rims';
import { attribute, type PolyMesh } from '../../mesh/polymesh';
import { meshTree } from '../../rays/of-mesh';
import { RayQuery } from '../../rays/query';
import { figure, millimetres } from '../../units/lengths';
import { inscribedCount } from '../budget/chord';
import { choice, length } from '../fields';
import { type Detail, ownPatch, type StepBase, type StepKind } from '../step';

/** Joins the rims of the step right above it to everything above that: a handle to its body. */
export interface JoinStep extends StepBase {
  kind: 'join';
  /** Radius between body and piece, mm; none when 0 or absent. */
  fillet?: number;
  /** The meshes that have it; the high one alone when absent. */
  filletIn?: 'high' | 'both';
}

/** A fillet needs this much more than its radius between rim and frame. */
const ROOM = 1.2;
/** Segments of a fillet in the low mesh, and at most in the high one. */
const [FEW, MOST] = [2, 32];

export const join = {
  kind: 'join',
  name: 'join rims',
  about:
    'Joins the open rims, or flat ends, of the step above to the body over it: quads all round, whatever the counts of both, and no line that runs on over the body.',
  fields: [
    length('fillet', 'Fillet', { hint: '0: none', optional: true }),
    choice(
      'filletIn',
      'Fillet in',
      [
        ['high', 'the high mesh'],
        ['both', 'both meshes'],
      ],
      { optional: true, when: (s) => typeof s.fillet === 'number' && s.fillet > 0 },
    ),
  ],
  fresh: () => ({ name: 'Join', fillet: 0, filletIn: 'high' as const }),
  words: (s: JoinStep, length) => (s.fillet ? `joined, fillet ${length(s.fillet, 2)}` : 'joined'),
  changer: {
    apart: true,
    change(step: JoinStep, mesh, detail, _around, last) {
      const fillet = step.fillet && (detail.mesh === 'high' || step.filletIn === 'both') ? step.fillet : 0;
      if (!last) throw new FormError('join/one', `“${step.name}” needs two steps above it: a body, and the piece that is joined to it.`);
      const made = joinRims(mesh, last, {
        collar: ownPatch(step, 'collar'),
        apron: ownPatch(step, 'apron'),
        ...(fillet > 0 && { room: ROOM * fillet }),
        castOn(body) {
          const query = new RayQuery(meshTree(body));
          return (o, d) => (query.closest(o[0], o[1], o[2], d[0], d[1], d[2], 0, 1e9) ? { t: query.t, triangle: query.triangle } : null);
        },
      });
      const rounded = fillet > 0 ? filleted(step, made.mesh, fillet, detail) : null;
      return {
        mesh: rounded?.mesh ?? made.mesh,
        figures: [
          ...(rounded ? [{ label: 'fillet', value: rounded.sizeMm, unit: 'mm' }] : []),
          { label: 'rims joined', value: made.joined, unit: '' },
          { label: 'quads, and triangles', value: made.quads, to: made.triangles, unit: '' },
          { label: 'worst face at a rim', value: made.pinch, unit: ': 1' },
          { label: 'worst face beyond', value: made.reach, unit: ': 1' },
          ...made.counts
            .filter((c) => Math.abs(c.rim - c.opening) % 4 === 2)
            .slice(0, 1)
            .map((c) => ({ label: 'sides that would stand straight', value: c.rim - 2, to: c.rim + 2, unit: '' })),
          ...(made.divided > 0 ? [{ label: 'faces of the body divided', value: made.divided, unit: '' }] : []),
          ...made.counts.map((c, i) => ({ label: `rim ${i + 1}: sides, and of its opening`, value: c.rim, to: c.opening, unit: '' })),
        ],
        notes: [
          ...(rounded && rounded.sizeMm < fillet
            ? [
                {
                  code: 'join/fillet',
                  message: `The fillet of “${step.name}” has only ${millimetres(rounded.sizeMm, 2)} of room.`,
                  value: fillet,
                  limit: rounded.sizeMm,
                  unit: 'mm',
                },
              ]
            : []),
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

/** The edges at the rims rounded. */
function filleted(step: JoinStep, mesh: PolyMesh, fillet: number, detail: Detail): Bevelled {
  const edges = edgesOf(mesh);
  const patch = attribute(mesh, 'patch', 'face')?.data;
  const nameOf = (corner: number): string => (patch ? mesh.patches[patch[edges.faceOf[corner]]] : '');
  const [collar, apron] = [ownPatch(step, 'collar'), ownPatch(step, 'apron')];
  const chosen = new Uint8Array(edges.count);
  for (let e = 0; e < edges.count; e++) {
    if (edgeValence(edges, e) !== 2) continue;
    const [a, b] = [nameOf(edges.corners[edges.start[e]]), nameOf(edges.corners[edges.start[e] + 1])];
    if ((a === collar && b !== collar && b !== apron) || (b === collar && a !== collar && a !== apron)) chosen[e] = 1;
  }
  const fine = detail.mesh === 'high' ? inscribedCount(fillet, detail.toleranceMm, Math.PI / 2, FEW) : FEW;
  return bevel(
    mesh,
    chosen,
    {
      sizeIs: 'radius',
      size: fillet,
      segments: Math.min(fine, MOST),
      patch: (kind, between) => ownPatch(step, `${kind} ${between}`.trim()),
    },
    edges,
  );
}
