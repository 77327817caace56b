import { FormError } from '../../errors';
import { add, cross, dot, normalise, scale, sub, type Vec3 } from '../../maths/vec3';
import { boundaryLoops } from '../../mesh/connectivity';
import { frameOf } from '../../mesh/planar';
import type { PolyMesh } from '../../mesh/polymesh';
import { millimetres } from '../../units/lengths';
import { inscribedCount, inscribedError } from '../budget/chord';
import { length, size, words } from '../fields';
import { Lofting } from '../loft';
import { type Loop, offsetLoop } from '../outline';
import { type Adaptive, countOf, ownPatch, type StepBase, type StepKind } from '../step';

/** A pane, or a dome, over a region of another part, with air between. Lengths in mm. */
export interface GlazeStep extends StepBase {
  kind: 'glaze';
  over: string;
  region?: string;
  /** Between the pane's edge and the region's outline. */
  clearance: number;
  /** Air between the region and the pane. */
  gap: number;
  thickness: number;
  /** How far its middle stands out; 0 is flat. */
  rise: number;
}

/** Rings of a dome are reckoned on a circle as wide as the widest outline there may be: its sagitta falls with their number squared. */
function ringsOf(s: GlazeStep): Adaptive {
  // Half the angle of the cap, for a rise over a radius of ten rises at least.
  const radius = Math.max(s.rise, 0.01) * 10;
  const turn = 2 * Math.atan(0.1);
  return {
    key: `${s.id}.rings`,
    label: 'rings of the dome',
    minimum: 2,
    errorMm: (n) => inscribedError(radius * 5, n, turn),
    countFor: (e) => inscribedCount(radius * 5, e, turn, 2),
  };
}

/** The longest open loop of a region, in the plane nearest to it, counter-clockwise seen from outside. */
function outlineOf(mesh: PolyMesh, name: string): { loop: Loop; origin: Vec3; normal: Vec3; u: Vec3; v: Vec3 } {
  const loops = boundaryLoops(mesh);
  if (loops.length === 0)
    throw new FormError('glaze/outline', `“${name}” needs a region with an outline: name one on the part it lies over.`);
  const at = (i: number): Vec3 => [mesh.positions[3 * i], mesh.positions[3 * i + 1], mesh.positions[3 * i + 2]];
  const long = (l: readonly number[]) => l.reduce((s, i, k) => s + Math.hypot(...sub(at(i), at(l[(k + 1) % l.length]))), 0);
  const loop = loops.reduce((a, b) => (long(b) > long(a) ? b : a));
  const middle = scale(loop.map(at).reduce(add), 1 / loop.length);
  let n: Vec3 = [0, 0, 0];
  for (const [k, i] of loop.entries()) n = add(n, cross(sub(at(i), middle), sub(at(loop[(k + 1) % loop.length]), middle)));
  const normal = normalise(n);
  const { u, v } = frameOf(normal);
  return {
    loop: loop.map((i): [number, number] => [dot(sub(at(i), middle), u), dot(sub(at(i), middle), v)]),
    origin: middle,
    normal,
    u,
    v,
  };
}

export const glaze = {
  kind: 'glaze',
  name: 'pane over a region',
  about: 'A pane or a dome of glass over a region of another part: its outline less a clearance, an air gap, a thickness, a rise.',
  fields: [
    words('over', 'Over part', { most: 60, names: 'part' }),
    words('region', 'Region', { most: 60, optional: true, names: 'region' }),
    length('clearance', 'Edge clearance'),
    length('gap', 'Air gap'),
    size('thickness', 'Thickness'),
    length('rise', 'Rise of the middle', { hint: '0: flat' }),
  ],
  fresh: () => ({ name: 'Pane', over: '?', clearance: 0.2, gap: 2, thickness: 1.5, rise: 0 }),
  words: (s: GlazeStep, length) => `${length(s.thickness, 1)} thick, ${length(s.gap, 1)} of air`,
  looksAt: (s: GlazeStep) => [s.over],
  fitter: {
    adaptive: (step: GlazeStep) => (step.rise > 0 ? [ringsOf(step)] : []),
    fit(step: GlazeStep, detail, around) {
      const { loop, origin, normal, u, v } = outlineOf(around.region(step.over, step.region ?? ''), step.name);
      const rim = offsetLoop(loop, () => -step.clearance, `A clearance of ${millimetres(step.clearance)}`);
      const width = Math.max(...rim.map((p) => Math.hypot(p[0], p[1])));
      const place = (p: readonly [number, number], share: number, height: number): Vec3 => {
        // A ball's cap through rim and middle, over any outline.
        const bulge = step.rise * (1 - share * share);
        return add(origin, add(add(scale(u, p[0] * share), scale(v, p[1] * share)), scale(normal, step.gap + height + bulge)));
      };
      const mesh = new Lofting();
      const n = rim.length;
      const k = step.rise > 0 ? countOf(detail, ringsOf(step)) : 0;
      const ring = (share: number, height: number): Vec3[] =>
        share === 0 ? [place([0, 0], 0, height)] : rim.map((p) => place(p, share, height));
      const shares = Array.from({ length: k + 1 }, (_, i) => (k === 0 ? 1 : i / k));
      const under = shares.map((s) => ring(s, 0));
      const over = [...shares].reverse().map((s) => ring(s, step.thickness));
      const band = (j: number) => (j < under.length - 1 ? 'underside' : j === under.length - 1 ? 'edge' : 'top');
      mesh.put({
        loops: [...under, ...over],
        ...(k === 0 && { start: ownPatch(step, 'underside'), end: ownPatch(step, 'top') }),
        face: (j, i) => ({
          patch: ownPatch(step, band(j)),
          u: [i / n, (i + 1) / n],
          v:
            band(j) === 'underside'
              ? [shares[j], shares[j + 1]]
              : band(j) === 'edge'
                ? [0, 1]
                : ([j - under.length, j + 1 - under.length].map((x) => x / Math.max(k, 1)) as [number, number]),
          hard: [band(j) === 'edge', false, band(j) === 'edge', false],
        }),
      });
      return {
        mesh: mesh.build(),
        figures: [
          { label: 'across at most', value: 2 * width, unit: 'mm' },
          { label: 'air in the middle', value: step.gap + step.rise, unit: 'mm' },
        ],
      };
    },
  },
} satisfies StepKind<GlazeStep>;
