import { FormError } from '../../errors';
import { type Vec3, vec3 } from '../../maths/vec3';
import { type PolyMesh, withAttribute, withoutAttribute } from '../../mesh/polymesh';
import { subdivide } from '../../mesh/subdivide';
import { figure } from '../../units/lengths';
import { choice, place, plain, size, whole } from '../fields';
import { Lofting } from '../loft';
import type { Maker, StepBase, StepKind } from '../step';

/** A pull on the cells near a place. */
export interface Push {
  id: string;
  x: number;
  y: number;
  z: number;
  /** How far, mm. */
  dx: number;
  dy: number;
  dz: number;
  /** Reach, mm: full in the middle, none there. */
  reach: number;
}

/** A box of few cells standing on y = 0, pushed about, then subdivided: cushions, pads, straps. Lengths in mm. */
export interface SoftStep extends StepBase {
  kind: 'soft';
  width: number;
  height: number;
  depth: number;
  cellsX: number;
  cellsY: number;
  cellsZ: number;
  pushes: Push[];
  /** Pushes act on the other side of a plane through the middle too, as its mirror would. */
  symmetric?: 'no' | 'x' | 'z' | 'both';
  /** Sharpness of the edges of the box: 0 is round, each level of subdivision takes one off. */
  crease: number;
  /** Sharpness of the edges round its foot. */
  creaseFoot: number;
  /** Levels in the low and in the high mesh. */
  levelsLow: number;
  levelsHigh: number;
}

/** Both levels at most: each takes four times the quads. */
const MOST_LEVELS = 6;
const MOST_QUADS = 500_000;

const quadsOf = (s: SoftStep): number => 2 * (s.cellsX * s.cellsY + s.cellsY * s.cellsZ + s.cellsX * s.cellsZ);

/** @throws FormError `soft/…` */
function check(s: SoftStep): void {
  const most = quadsOf(s) * 4 ** Math.max(s.levelsLow, s.levelsHigh);
  if (most > MOST_QUADS)
    throw new FormError(
      'soft/levels',
      `“${s.name}” would take ${figure(most, 0)} quads; take fewer cells or levels (${figure(MOST_QUADS, 0)} at most).`,
    );
  for (const [i, p] of s.pushes.entries())
    if (!(p.reach > 0)) throw new FormError('soft/reach', `Push ${i + 1} of “${s.name}” needs a reach above 0 mm.`);
}

/** Full in the middle, level there and at its reach: (1 − t²)². */
const falloff = (t: number): number => (t >= 1 ? 0 : (1 - t * t) ** 2);

const maker: Maker<SoftStep> = {
  plan(step) {
    check(step);
    return { adaptive: [], triangles: () => 2 * quadsOf(step) * 4 ** step.levelsLow };
  },
  build(step, detail): PolyMesh {
    check(step);
    let mesh = cage(step);
    const levels = detail.mesh === 'low' ? step.levelsLow : step.levelsHigh;
    for (let i = 0; i < levels; i++) mesh = subdivide(mesh);
    return withoutAttribute(mesh, 'crease');
  },
  topology: () => ({ shells: 1, genus: 0, rims: 0 }),
};

/** The box of cells, pushed; edges of the box carry the crease. */
function cage(s: SoftStep): PolyMesh {
  const mesh = new Lofting();
  const pushes = mirrored(s);
  const n = [s.cellsX, s.cellsY, s.cellsZ];
  const dims = [s.width, s.height, s.depth];
  const start = [-s.width / 2, 0, -s.depth / 2];
  const vertices = new Map<string, number>();
  const vertex = (g: readonly number[]): number => {
    const key = g.join();
    let v = vertices.get(key);
    if (v === undefined) {
      v = mesh.vertex(
        pushed(
          pushes,
          vec3((k) => start[k] + (dims[k] * g[k]) / n[k]),
        ),
      );
      vertices.set(key, v);
    }
    return v;
  };
  const creases: number[] = [];
  const faces: [name: string, axis: number, end: 0 | 1][] = [
    ['left', 0, 0],
    ['right', 0, 1],
    ['bottom', 1, 0],
    ['top', 1, 1],
    ['back', 2, 0],
    ['front', 2, 1],
  ];
  for (const [name, axis, end] of faces) {
    const [a, b] = [(axis + 1) % 3, (axis + 2) % 3];
    for (let i = 0; i < n[a]; i++)
      for (let j = 0; j < n[b]; j++) {
        const corner = (di: number, dj: number): number[] => {
          const g = [0, 0, 0];
          g[axis] = end * n[axis];
          g[a] = i + di;
          g[b] = j + dj;
          return g;
        };
        const ring = [corner(0, 0), corner(1, 0), corner(1, 1), corner(0, 1)];
        if (end === 0) ring.reverse();
        mesh.facet(
          ring.map(vertex),
          name,
          ring.flatMap((g) => [g[a] / n[a], g[b] / n[b]]),
        );
        for (let k = 0; k < 4; k++) creases.push(edgeSharpness(s, ring[k], ring[(k + 1) % 4], n));
      }
  }
  return withAttribute(mesh.build(), { name: 'crease', domain: 'corner', size: 1, data: Float64Array.from(creases) });
}

/** An edge of the box lies on two of its sides at once. */
function edgeSharpness(s: SoftStep, p: readonly number[], q: readonly number[], n: readonly number[]): number {
  const sides = [0, 1, 2].filter((k) => p[k] === q[k] && (p[k] === 0 || p[k] === n[k]));
  if (sides.length < 2) return 0;
  return sides.includes(1) && p[1] === 0 ? s.creaseFoot : s.crease;
}

/** The pushes with their mirror images. One on the plane is its own: it doesn't act twice, nor across it. */
function mirrored(s: SoftStep): Push[] {
  const axes: readonly ('x' | 'z')[] =
    s.symmetric === 'both' ? ['x', 'z'] : s.symmetric === 'x' || s.symmetric === 'z' ? [s.symmetric] : [];
  return axes.reduce<Push[]>(
    (list, axis) =>
      list.flatMap((push) => {
        const by = axis === 'x' ? 'dx' : 'dz';
        if (Math.abs(push[axis]) < 1e-9) return [{ ...push, [by]: 0 }];
        return [push, { ...push, [axis]: -push[axis], [by]: -push[by] }];
      }),
    s.pushes,
  );
}

function pushed(pushes: readonly Push[], p: Vec3): Vec3 {
  const out: [number, number, number] = [...p];
  for (const push of pushes) {
    const k = falloff(Math.hypot(p[0] - push.x, p[1] - push.y, p[2] - push.z) / push.reach);
    out[0] += k * push.dx;
    out[1] += k * push.dy;
    out[2] += k * push.dz;
  }
  return out;
}

export const soft = {
  kind: 'soft',
  name: 'cushion',
  about: 'A box of few cells, pushed about and subdivided: cushions, floats, straps, padding.',
  fields: [
    size('width', 'Width (x)'),
    size('height', 'Height (y)'),
    size('depth', 'Depth (z)'),
    whole('cellsX', 'Cells along x', 1, 24),
    whole('cellsY', 'Cells along y', 1, 24),
    whole('cellsZ', 'Cells along z', 1, 24),
    plain('crease', 'Crease', 0, 10),
    plain('creaseFoot', 'Crease at the foot', 0, 10),
    whole('levelsLow', 'Levels, low', 0, MOST_LEVELS),
    whole('levelsHigh', 'Levels, high', 0, MOST_LEVELS),
    {
      type: 'list',
      key: 'pushes',
      label: 'Pushes',
      one: 'Push',
      least: 0,
      most: 60,
      fields: [
        place('x', 'At x'),
        place('y', 'At y'),
        place('z', 'At z'),
        place('dx', 'By x'),
        place('dy', 'By y'),
        place('dz', 'By z'),
        size('reach', 'Reach'),
      ],
      fresh: () => ({ x: 0, y: 0, z: 0, dx: 0, dy: 2, dz: 0, reach: 20 }),
    },
    choice(
      'symmetric',
      'Pushes mirrored',
      [
        ['no', 'no'],
        ['x', 'left and right (x)'],
        ['z', 'front and back (z)'],
        ['both', 'both ways'],
      ],
      { optional: true },
    ),
  ],
  // Two levels to look at, three for the picture: common practice, no source.
  fresh: () => ({
    name: 'Cushion',
    width: 60,
    height: 24,
    depth: 40,
    cellsX: 3,
    cellsY: 1,
    cellsZ: 2,
    pushes: [],
    crease: 0,
    creaseFoot: 0,
    levelsLow: 2,
    levelsHigh: 3,
  }),
  words: (s: SoftStep, length) => `cushion ${length(s.width, 1)} × ${length(s.height, 1)} × ${length(s.depth, 1)}`,
  maker,
} satisfies StepKind<SoftStep>;
