import { FormError } from '../../errors';
import type { Vec3 } from '../../maths/vec3';
import { boundsOf } from '../../mesh/measures';
import type { PolyMesh } from '../../mesh/polymesh';
import { sectionLoops } from '../../mesh/slice';
import { meshTree } from '../../rays/of-mesh';
import { RayQuery } from '../../rays/query';
import { millimetres } from '../../units/lengths';
import { choice, length, place, size, words } from '../fields';
import { Lofting } from '../loft';
import { type Loop, largestLoop, offsetLoop, withoutShort } from '../outline';
import { ownPatch, type StepBase, type StepKind } from '../step';

/** A tray, drawer, plug or lid sized from the opening of another part, with clearances along each axis. Lengths in mm. */
export interface FittedStep extends StepBase {
  kind: 'fitted';
  to: string;
  shape: 'tray' | 'plug' | 'lid';
  /** Which way the opening looks. */
  opens: 'y' | 'z' | 'x';
  /** Where across that axis the opening is measured. */
  at: number;
  /** Clearances along x, y and z. */
  clearX: number;
  clearY: number;
  clearZ: number;
  /** How far it stands along the axis. */
  height: number;
  wall: number;
  floor: number;
}

/** Axes of the opening's plane, and the way out of it: right-handed. */
const FRAMES: Record<FittedStep['opens'], { u: 0 | 1 | 2; v: 0 | 1 | 2; w: 0 | 1 | 2 }> = {
  x: { u: 1, v: 2, w: 0 },
  y: { u: 2, v: 0, w: 1 },
  z: { u: 0, v: 1, w: 2 },
};
const UNIT: Record<FittedStep['opens'], Vec3> = { x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] };

/** How far in the opening goes from where it is measured: to the floor below its middle. */
function floorBelow(host: PolyMesh, loop: Loop, step: FittedStep): number {
  const { u, v, w } = FRAMES[step.opens];
  const query = new RayQuery(meshTree(host));
  const box = [0, 1].map((k) => [Math.min(...loop.map((p) => p[k])), Math.max(...loop.map((p) => p[k]))]);
  let floor = -Infinity;
  // Several places, as there may be a hole in the floor.
  for (const [a, b] of [
    [0.5, 0.5],
    [0.3, 0.3],
    [0.7, 0.3],
    [0.3, 0.7],
    [0.7, 0.7],
  ]) {
    const o: [number, number, number] = [0, 0, 0];
    o[u] = box[0][0] + a * (box[0][1] - box[0][0]);
    o[v] = box[1][0] + b * (box[1][1] - box[1][0]);
    o[w] = step.at;
    const d: [number, number, number] = [0, 0, 0];
    d[w] = -1;
    if (query.closest(...o, ...d, 0, 1e9)) floor = Math.max(floor, step.at - query.t);
  }
  return floor;
}

export const fitted = {
  kind: 'fitted',
  name: 'made to fit an opening',
  about: 'A tray, drawer, plug or lid whose outline is the opening of another part, less or more a clearance along each axis.',
  fields: [
    words('to', 'Of part', { most: 60, names: 'part' }),
    choice('shape', 'It is', [
      ['tray', 'a tray or drawer'],
      ['plug', 'a plug'],
      ['lid', 'a lid over it'],
    ]),
    choice('opens', 'Opening looks along', [
      ['y', 'y (up)'],
      ['z', 'z (front)'],
      ['x', 'x'],
    ]),
    place('at', 'Measured at'),
    length('clearX', 'Clearance x'),
    length('clearY', 'Clearance y'),
    length('clearZ', 'Clearance z'),
    size('height', 'Stands'),
    size('wall', 'Wall', { when: (s) => s.shape !== 'plug' }),
    size('floor', 'Floor, or top', { when: (s) => s.shape !== 'plug' }),
  ],
  fresh: () => ({
    name: 'Tray',
    to: '?',
    shape: 'tray' as const,
    opens: 'y' as const,
    at: 20,
    clearX: 0.5,
    clearY: 0.5,
    clearZ: 0.5,
    height: 20,
    wall: 2,
    floor: 2,
  }),
  words: (s: FittedStep, length) => `${s.shape}, ${[s.clearX, s.clearY, s.clearZ].map((x) => length(x, 2)).join(', ')} clear`,
  looksAt: (s: FittedStep) => [s.to],
  fitter: {
    fit(step: FittedStep, _detail, around) {
      const host = around.region(step.to, '');
      const { u, v, w } = FRAMES[step.opens];
      const clear = [step.clearX, step.clearY, step.clearZ];
      const loops = sectionLoops(host, { normal: UNIT[step.opens], offset: step.at }).map((l) =>
        l.map((p): [number, number] => [p[u], p[v]]),
      );
      const lid = step.shape === 'lid';
      const found = largestLoop(loops, lid ? 1 : -1);
      if (!found)
        throw new FormError(
          'fitted/opening',
          `The part has no ${lid ? 'outside' : 'opening'} at ${step.opens} ${millimetres(step.at)}: measure it where its walls are.`,
        );
      // Holes run clockwise; an outline of its own runs the other way.
      const inward = step.shape === 'tray' ? step.wall : 0;
      const opening: Loop = lid ? found : withoutShort([...found].reverse(), Math.max(clear[u], clear[v]) + inward);
      const sign = lid ? 1 : -1;
      const by = (n: readonly [number, number]) => sign * (Math.abs(n[0]) * clear[u] + Math.abs(n[1]) * clear[v]);
      const outer = offsetLoop(opening, by, 'The clearance');
      const top = boundsOf(host).max[w];
      const base = lid ? top + clear[w] : floorBelow(host, opening, step) + clear[w];
      if (!Number.isFinite(base))
        throw new FormError('fitted/floor', `The opening goes right through: “${step.name}” has no floor to stand on.`);
      const at = (p: readonly [number, number], height: number): Vec3 => {
        const out: [number, number, number] = [0, 0, 0];
        out[u] = p[0];
        out[v] = p[1];
        out[w] = height;
        return out;
      };
      const ring = (loop: Loop, height: number) => loop.map((p) => at(p, height));
      const mesh = new Lofting();
      const n = outer.length;
      const put = (levels: readonly { loop: Loop; height: number; patch: string }[], start: string, end: string) =>
        mesh.put({
          loops: levels.map((l) => ring(l.loop, l.height)),
          start: ownPatch(step, start),
          end: ownPatch(step, end),
          face: (j, i) => ({
            patch: ownPatch(step, `${levels[j + 1].patch} ${i + 1}`),
            u: [i / n, (i + 1) / n],
            v: [0, 1],
            hard: [true, sharp(outer, i + 1), true, sharp(outer, i)],
          }),
        });
      const [low, high] = lid ? [base - step.height, base + step.floor] : [base, base + step.height];
      if (step.shape === 'plug')
        put(
          [
            { loop: outer, height: low, patch: '' },
            { loop: outer, height: high, patch: 'side' },
          ],
          'bottom',
          'top',
        );
      else if (lid) {
        const shell = offsetLoop(outer, () => step.wall, 'The wall');
        put(
          [
            { loop: outer, height: base, patch: '' },
            { loop: outer, height: low, patch: 'inside' },
            { loop: shell, height: low, patch: 'rim' },
            { loop: shell, height: high, patch: 'side' },
          ],
          'ceiling',
          'top',
        );
      } else {
        const inner = offsetLoop(outer, () => -step.wall, 'The wall');
        put(
          [
            { loop: outer, height: low, patch: '' },
            { loop: outer, height: high, patch: 'side' },
            { loop: inner, height: high, patch: 'rim' },
            { loop: inner, height: low + step.floor, patch: 'inside' },
          ],
          'bottom',
          'floor',
        );
      }
      const made = mesh.build();
      const { min, max } = boundsOf(made);
      return {
        mesh: made,
        figures: ['x', 'y', 'z'].map((name, k) => ({ label: `size along ${name}`, value: max[k] - min[k], unit: 'mm' })),
      };
    },
  },
} satisfies StepKind<FittedStep>;

/** Whether an outline turns by more than 20° at a corner: rounder ones are smooth. */
function sharp(loop: Loop, i: number): boolean {
  const n = loop.length;
  const [a, b, c] = [loop[(i + n - 1) % n], loop[i % n], loop[(i + 1) % n]];
  const [d, e] = [
    [b[0] - a[0], b[1] - a[1]],
    [c[0] - b[0], c[1] - b[1]],
  ];
  return Math.abs(Math.atan2(d[0] * e[1] - d[1] * e[0], d[0] * e[0] + d[1] * e[1])) > 0.35;
}
