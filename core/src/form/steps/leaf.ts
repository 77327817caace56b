import { FormError } from '../../errors';
import { cross, normalise, sub, type Vec3 } from '../../maths/vec3';
import type { PolyMesh } from '../../mesh/polymesh';
import { pointAt } from '../curves';
import { angle, choice, length, place, whole } from '../fields';
import { trackOf } from '../path';
import { outlinesOf } from '../sketch/chains';
import { SKETCH_FIELDS, type Sketch } from '../sketch/sketch';
import { countOf, type Maker, type StepBase, type StepKind } from '../step';
import { cutBy } from '../sweep/plan';
import { type Sheet, sheetOf, sheetPlan, type Wall } from '../sweep/sheet';
import type { Surface } from '../sweep/surface';

/**
 * A thin sheet with an outline, as one thing or as two faces without a thickness: leaves, flags, labels, paper. It is drawn flat; what
 * bends it is said in figures. Across is along its midrib. Lengths in mm.
 */
export interface LeafStep extends StepBase {
  kind: 'leaf';
  sketch: Sketch;
  /** Lying: seen from above. Hanging: seen from the front, what bends it goes towards +z. */
  lies: 'flat' | 'upright';
  /** How far the middle of its midrib stands over its ends. */
  rise: number;
  /** How far its edges stand over its midrib, in a curve; negative hangs down. */
  hollow: number;
  /** Turn of each half about the midrib, up, degrees: a crease. */
  foldDegrees: number;
  /** How far its far end sags, held at the near one. */
  sag: number;
  /** Ripples along it, growing from the near end. */
  ripples: number;
  ripple: number;
  /** No thickness leaves two sides of one surface. */
  thickness: number;
}

const bent = (s: LeafStep): boolean => s.foldDegrees !== 0;

/** What was found out about a step is kept as long as the step is. */
const made = new WeakMap<LeafStep, Sheet>();

/** @throws FormError `sketch/…`, `leaf/…`, `sweep/…` */
function madeOf(step: LeafStep): Sheet {
  const known = made.get(step);
  if (known) return known;
  const surface = surfaceOf(step);
  const wall: Wall = { up: step.thickness / 2, low: -step.thickness / 2 };
  const sheet = sheetOf(surface, cutBy(surface, step.sketch, step.name), wall, step.name);
  made.set(step, sheet);
  return sheet;
}

/** Room left round the outline, as a share of its size. */
const ROOM = 0.1;
/** How far a uniform beam held at one end sags under its own weight, as a share of its tip (Euler and Bernoulli; any handbook). */
export const sagging = (x: number): number => (6 * x * x - 4 * x ** 3 + x ** 4) / 3;

/** The height of the sheet over its drawing, as a surface along its midrib. */
function surfaceOf(step: LeafStep): Surface {
  const { outer } = outlinesOf(step.sketch, step.name);
  const all = outer.curves.flatMap((c) => Array.from({ length: 25 }, (_, i) => pointAt(c, i / 24)));
  const [x0, x1] = [Math.min(...all.map((p) => p[0])), Math.max(...all.map((p) => p[0]))];
  const [y0, y1] = [Math.min(...all.map((p) => p[1])), Math.max(...all.map((p) => p[1]))];
  const [long, wide] = [x1 - x0, y1 - y0];
  if (!(long > 1e-6 && wide > 1e-6)) throw new FormError('leaf/outline', `The outline of “${step.name}” has no width.`);
  // The midrib runs where the outline begins and ends: level with the middle of the drawing unless that is elsewhere.
  const middle = midribOf(all, x0, x1);
  const half = Math.max(y1 - middle, middle - y0);
  const [from, reach] = [x0 - ROOM * long, long * (1 + 2 * ROOM)];
  const over = half * (1 + ROOM);
  const slope = Math.tan((step.foldDegrees * Math.PI) / 180);
  const height = (x: number, y: number): number => {
    const xi = (x - x0) / long;
    const off = y - middle;
    return (
      step.rise * 4 * xi * (1 - xi) +
      step.hollow * (off / half) ** 2 +
      slope * Math.abs(off) -
      step.sag * sagging(Math.max(0, xi)) +
      (step.ripples > 0 ? step.ripple * xi * Math.sin(2 * Math.PI * step.ripples * xi) : 0)
    );
  };
  const track = trackOf({
    name: step.name,
    path: [
      { id: 'a', x: from, y: 0, z: -middle },
      { id: 'b', x: from + reach, y: 0, z: -middle },
    ],
  });
  const row = (s: number) => {
    const x = from + s;
    return (t: number): Vec3 => {
      const y = middle + (2 * t - 1) * over;
      return [x, height(x, y), -y];
    };
  };
  const h = long * 1e-5;
  return {
    long: reach,
    track,
    sections: { open: true, curves: [], corners: bent(step) ? [0.5] : [] },
    stations: [],
    marks: [],
    row,
    at: (s, t) => row(s)(t),
    normal(s, t) {
      const along = sub(row(s + h)(t), row(s - h)(t));
      // At the crease each half has its own direction; taken across it, theirs is the mean.
      const here = row(s);
      return normalise(cross(along, sub(here(t + 1e-5), here(t - 1e-5))));
    },
  };
}

/** Where the outline is met at its near and far end: pointed ones lie on the midrib. */
function midribOf(points: readonly (readonly [number, number])[], x0: number, x1: number): number {
  const at = (x: number) => {
    const near = points.filter((p) => Math.abs(p[0] - x) < 1e-6 * (x1 - x0) + 1e-9).map((p) => p[1]);
    return (Math.min(...near) + Math.max(...near)) / 2;
  };
  return (at(x0) + at(x1)) / 2;
}

const planOf = (step: LeafStep) => sheetPlan(madeOf(step), step.id, step.thickness > 0);

const maker: Maker<LeafStep> = {
  plan(step) {
    const { adaptive, triangles } = planOf(step);
    return { adaptive, triangles: (count) => triangles(count(adaptive[0]), count(adaptive[1])) };
  },
  build(step, detail): PolyMesh {
    const [n, k] = planOf(step).adaptive.map((a) => countOf(detail, a));
    const mesh = madeOf(step).build(n, k);
    if (step.lies === 'flat') return mesh;
    // Hanging: what was up in the drawing is up, what bends it comes forward.
    const positions = Float64Array.from(mesh.positions);
    for (let v = 0; v < positions.length; v += 3) [positions[v + 1], positions[v + 2]] = [-positions[v + 2], positions[v + 1]];
    return { ...mesh, positions };
  },
  topology: (step) => ({ shells: 1, genus: 0, rims: step.thickness > 0 ? 0 : 1 }),
};

export const leaf = {
  kind: 'leaf',
  name: 'leaf or sheet',
  about:
    'A thin sheet with a sketched outline, bent, folded, sagging or rippled; two-sided, or with a thickness: leaves, flags, labels, paper.',
  fields: [
    { type: 'group', key: 'sketch', label: 'Outline', fields: SKETCH_FIELDS, drawn: true },
    choice('lies', 'Lies', [
      ['flat', 'flat, seen from above'],
      ['upright', 'upright, seen from the front'],
    ]),
    place('rise', 'Midrib rises', { hint: 'in its middle' }),
    place('hollow', 'Edges rise', { hint: 'over the midrib' }),
    angle('foldDegrees', 'Folded up', { min: -80, max: 80, hint: 'each half, at the midrib' }),
    place('sag', 'Sags', { hint: 'at its far end' }),
    whole('ripples', 'Ripples', 0, 40),
    place('ripple', 'Ripple depth', { hint: 'at its far end', when: (s) => Number(s.ripples) > 0 }),
    length('thickness', 'Thickness', { hint: '0: one surface with two sides' }),
  ],
  fresh: () => ({
    name: 'Leaf',
    lies: 'flat' as const,
    sketch: {
      points: [
        { id: 'a', x: 0, y: 0, fixed: true },
        { id: 'b', x: 80, y: 0 },
        { id: 'm', x: 40, y: 40 },
        { id: 'n', x: 40, y: -40 },
      ],
      curves: [
        { id: 'r1', name: 'near edge', kind: 'arc' as const, a: 'a', b: 'b', centre: 'm', turn: 'left' as const },
        { id: 'r2', name: 'far edge', kind: 'arc' as const, a: 'b', b: 'a', centre: 'n', turn: 'left' as const },
      ],
      constraints: [],
    },
    rise: 4,
    hollow: 3,
    foldDegrees: 12,
    sag: 6,
    ripples: 0,
    ripple: 0,
    thickness: 0,
  }),
  words: (s: LeafStep, say) => (s.thickness > 0 ? `sheet ${say(s.thickness, 2)} thick` : 'two-sided sheet'),
  open: (s: LeafStep) => !(s.thickness > 0),
  maker,
} satisfies StepKind<LeafStep>;
