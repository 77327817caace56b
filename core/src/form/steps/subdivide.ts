import { FormError } from '../../errors';
import { bevel } from '../../mesh/bevel/bevel';
import { edgesOf } from '../../mesh/connectivity';
import { hardEdges } from '../../mesh/normals';
import { type PolyMesh, triangleCount, withAttribute } from '../../mesh/polymesh';
import { subdivide as divided } from '../../mesh/subdivide';
import { figure } from '../../units/lengths';
import { pickedEdges } from '../changers';
import { angle, choice, edgesPicked, plain, size, toggle, whole } from '../fields';
import type { PickedLine } from '../places';
import { ownPatch, type StepBase, type StepKind } from '../step';

/** Divides every face of what stands above it, smoothing it or not. Lengths in mm. */
export interface SubdivideStep extends StepBase {
  kind: 'subdivide';
  smooth: boolean;
  levelsLow: number;
  levelsHigh: number;
  /** What holds edges sharper than the angle: a crease of so many levels, or loops beside them. */
  hold: 'nothing' | 'crease' | 'loops' | 'picked';
  /** The edges that are creased when they are picked. */
  edges?: PickedLine[];
  degrees: number;
  crease: number;
  loop: number;
}

/** Above this many triangles a step would only stop the sheet. */
const MOST = 1_500_000;

function held(step: SubdivideStep, mesh: PolyMesh): PolyMesh {
  if (step.hold === 'nothing' || !step.smooth) return mesh;
  const edges = edgesOf(mesh);
  const sharp = step.hold === 'picked' ? pickedEdges(step, mesh, edges) : hardEdges(mesh, { hardAngle: step.degrees }, edges);
  if (step.hold === 'crease' || step.hold === 'picked')
    return withAttribute(mesh, {
      name: 'crease',
      domain: 'corner',
      size: 1,
      data: Float64Array.from(edges.ofCorner, (e) => sharp[e] * step.crease),
    });
  if (!sharp.includes(1)) return mesh;
  return bevel(
    mesh,
    sharp,
    { size: step.loop, segments: 2, shape: 'held', patch: (kind, between) => ownPatch(step, `${kind} ${between}`) },
    edges,
  ).mesh;
}

const smooth = (s: Record<string, unknown>) => s.smooth === true;
export const subdivide = {
  kind: 'subdivide',
  name: 'subdivide',
  about: 'Divides every face, smoothing the surface or leaving it as it is; sharp edges can be held by creases or by loops beside them.',
  fields: [
    toggle('smooth', 'Smoothed'),
    whole('levelsLow', 'Levels in the low mesh', 0, 5),
    whole('levelsHigh', 'Levels in the high mesh', 0, 6),
    choice(
      'hold',
      'Sharp edges',
      [
        ['nothing', 'go round'],
        ['crease', 'are creased'],
        ['loops', 'are held by loops'],
        ['picked', 'picked ones are creased'],
      ],
      { when: smooth },
    ),
    edgesPicked('edges', 'Creased', { optional: true, when: (s) => smooth(s) && s.hold === 'picked' }),
    angle('degrees', 'Sharper than', { min: 1, max: 179, when: (s) => smooth(s) && (s.hold === 'crease' || s.hold === 'loops') }),
    plain('crease', 'Crease weight', 0, 10, { when: (s) => smooth(s) && (s.hold === 'crease' || s.hold === 'picked') }),
    size('loop', 'Loops beside them at', { when: (s) => smooth(s) && s.hold === 'loops' }),
  ],
  fresh: () => ({ name: 'Subdivide', smooth: true, levelsLow: 1, levelsHigh: 3, hold: 'crease' as const, degrees: 40, crease: 2, loop: 2 }),
  words: (s: SubdivideStep) => `${s.levelsLow} and ${s.levelsHigh} ${s.smooth ? 'smooth' : 'plain'} levels`,
  patchName: (_: SubdivideStep, patch: string) => patch.replace(/[^ ]+\//g, ''),
  changer: {
    change(step: SubdivideStep, mesh, detail) {
      const levels = detail.mesh === 'low' ? step.levelsLow : step.levelsHigh;
      const corners = held(step, mesh);
      const would = triangleCount(corners) * 4 ** levels;
      if (would > MOST)
        throw new FormError(
          'subdivide/many',
          `${levels} levels of “${step.name}” would make about ${figure(would / 1e6, 1)} million triangles; take fewer.`,
        );
      let out = corners;
      for (let i = 0; i < levels; i++) out = divided(out, { smooth: step.smooth });
      return { mesh: out };
    },
  },
} satisfies StepKind<SubdivideStep>;
