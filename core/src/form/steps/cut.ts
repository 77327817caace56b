import { rotation, transformDirection } from '../../maths/mat4';
import { dot, type Vec3 } from '../../maths/vec3';
import { moved } from '../../mesh/deform';
import { insetFaces } from '../../mesh/inset';
import { mergeLaid } from '../../mesh/merge';
import { attribute, type PolyMesh } from '../../mesh/polymesh';
import { cut as cutOff, type Plane, slice } from '../../mesh/slice';
import { axisField } from '../changers';
import { angle, choice, length, place, toggle } from '../fields';
import { ownPatch, type StepBase, type StepKind } from '../step';

/** Cuts everything above it by a plane. Lengths in mm, angles in degrees. */
export interface CutStep extends StepBase {
  kind: 'cut';
  axis: 'x' | 'y' | 'z';
  at: number;
  /** The plane leans about the next axis, and about the one after it, through the place where it crosses its own. */
  leanA: number;
  leanB: number;
  keep: 'above' | 'below' | 'both' | 'line';
  gap: number;
  cap: boolean;
  /** A band of its own round the cap, inside its outline. */
  band: number;
}

const AXIS: Record<CutStep['axis'], Vec3> = { x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] };
const ORDER = ['x', 'y', 'z'] as const;

function planeOf(s: CutStep): Plane {
  const i = ORDER.indexOf(s.axis);
  const lean = (n: Vec3, axis: Vec3, degrees: number) => transformDirection(rotation(axis, (degrees * Math.PI) / 180), n);
  const normal = lean(lean(AXIS[s.axis], AXIS[ORDER[(i + 1) % 3]], s.leanA), AXIS[ORDER[(i + 2) % 3]], s.leanB);
  const on: Vec3 = [AXIS[s.axis][0] * s.at, AXIS[s.axis][1] * s.at, AXIS[s.axis][2] * s.at];
  return { normal, offset: dot(normal, on) };
}

/** One side of the cut, with its cap and the band round it. */
function side(step: CutStep, mesh: PolyMesh, plane: Plane, keep: 'above' | 'below'): PolyMesh {
  const cap = ownPatch(step, `cap ${keep}`);
  const made = cutOff(mesh, plane, { keep, ...(step.cap && { cap }) });
  const patch = attribute(made, 'patch', 'face')?.data;
  if (!step.cap || !patch || step.band === 0) return made;
  const own = made.patches.indexOf(cap);
  const chosen = Uint8Array.from(patch, (p) => (p === own ? 1 : 0));
  return chosen.includes(1) ? insetFaces(made, chosen, step.band, ownPatch(step, `band ${keep}`)) : made;
}

const cuts = (s: Record<string, unknown>) => s.keep !== 'line';
export const cut = {
  kind: 'cut',
  name: 'cut by a plane',
  about: 'Cuts everything above it: one side goes, both stay apart, or only a line of edges is left. Closed bodies get a cap.',
  fields: [
    axisField('axis', 'Across'),
    place('at', 'At'),
    angle('leanA', 'Leaning one way', { min: -89, max: 89 }),
    angle('leanB', 'Leaning the other', { min: -89, max: 89 }),
    choice('keep', 'What stays', [
      ['below', 'what lies before it'],
      ['above', 'what lies beyond it'],
      ['both', 'both, apart'],
      ['line', 'all, with edges along it'],
    ]),
    length('gap', 'Apart by', { when: (s) => s.keep === 'both' }),
    toggle('cap', 'Closed by a cap', { when: cuts }),
    length('band', 'Band round the cap', { when: (s) => cuts(s) && s.cap === true, hint: '0: none' }),
  ],
  fresh: () => ({ name: 'Cut', axis: 'y' as const, at: 20, leanA: 0, leanB: 0, keep: 'below' as const, gap: 0, cap: true, band: 0 }),
  words: (s: CutStep, length) => `cut at ${s.axis} ${length(s.at, 1)}`,
  changer: {
    change(step: CutStep, mesh) {
      const plane = planeOf(step);
      if (step.keep === 'line') return { mesh: slice(mesh, plane).mesh };
      if (step.keep !== 'both') return { mesh: side(step, mesh, plane, step.keep) };
      const halves = (['below', 'above'] as const).map((keep) => {
        const made = side(step, mesh, plane, keep);
        const by = (keep === 'above' ? 0.5 : -0.5) * step.gap;
        const n = plane.normal;
        return by === 0 ? made : moved(made, (p) => [p[0] + by * n[0], p[1] + by * n[1], p[2] + by * n[2]]);
      });
      return { mesh: mergeLaid(halves) };
    },
  },
} satisfies StepKind<CutStep>;
