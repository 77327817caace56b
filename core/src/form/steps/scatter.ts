import { FormError } from '../../errors';
import type { Mat4 } from '../../maths/mat4';
import { random } from '../../maths/random';
import { add, cross, normalise, perpendicular, scale, sub, type Vec3 } from '../../maths/vec3';
import { triangleArea } from '../../mesh/measures';
import { type PolyMesh, triangleCount } from '../../mesh/polymesh';
import { figure } from '../../units/lengths';
import { showing } from '../cover';
import { place, plain, size, toggle, whole, words } from '../fields';
import { type Hand, handFields } from '../hand';
import type { StepBase, StepKind, Surroundings } from '../step';

/** Copies of everything before it in the part, strewn over a region of another part. Copies share mesh and texels. */
export interface ScatterStep extends StepBase, Hand {
  kind: 'scatter';
  /** Id of the part they lie on, and of its region; the whole part when the region is empty. */
  on: string;
  region?: string;
  seed: number;
  /** No two are nearer, mm. */
  spacing: number;
  /** At most so many. */
  most: number;
  /** Sizes as shares of the original. */
  smallest: number;
  largest: number;
  /** How far they are sunk in, mm. */
  sunk: number;
  /** Turned at random round their own upright. */
  turned: boolean;
  /** Strewn until no more than this share of what lies beneath shows, per cent; as many as go when absent or 0. */
  shows?: number;
}

/** Tries for each copy wanted before it is taken that there is no room left. */
const TRIES = 30;

/**
 * Dart throwing (Cook 1986): places drawn evenly over the area, kept where no earlier one is nearer than the spacing. Upright
 * is the surface's own direction.
 */
export function strew(step: ScatterStep, region: PolyMesh): Mat4[] {
  const next = random(step.seed);
  const areas = new Float64Array(triangleCount(region));
  let total = 0;
  for (let t = 0; t < areas.length; t++) areas[t] = total += triangleArea(region, t);
  if (!(total > 0)) throw new FormError('scatter/empty', `The region under “${step.name}” has no surface.`);
  const cell = Math.max(step.spacing, 1e-3);
  const grid = new Map<string, Vec3[]>();
  const key = (p: Vec3, d: readonly number[] = [0, 0, 0]) => p.map((x, k) => Math.floor(x / cell) + d[k]).join();
  const near = (p: Vec3): boolean => {
    for (let x = -1; x <= 1; x++)
      for (let y = -1; y <= 1; y++)
        for (let z = -1; z <= 1; z++)
          for (const q of grid.get(key(p, [x, y, z])) ?? []) if (Math.hypot(...sub(p, q)) < step.spacing) return true;
    return false;
  };
  const out: Mat4[] = [];
  let misses = 0;
  while (out.length < step.most && misses < TRIES * Math.max(20, out.length)) {
    const { point, normal } = drawn(region, areas, total, next);
    const [factor, turn] = [step.smallest + (step.largest - step.smallest) * next(), step.turned ? 2 * Math.PI * next() : 0];
    if (near(point)) {
      misses++;
      continue;
    }
    const list = grid.get(key(point));
    if (list) list.push(point);
    else grid.set(key(point), [point]);
    out.push(standing(add(point, scale(normal, -step.sunk)), normal, turn, factor));
  }
  return out;
}

function drawn(region: PolyMesh, areas: Float64Array, total: number, next: () => number): { point: Vec3; normal: Vec3 } {
  const wanted = next() * total;
  let [low, high] = [0, areas.length - 1];
  while (low < high) {
    const m = (low + high) >> 1;
    if (areas[m] > wanted) high = m;
    else low = m + 1;
  }
  const corner = (k: number): Vec3 => {
    const v = 3 * region.faceVert[region.triangles[3 * low + k]];
    return [region.positions[v], region.positions[v + 1], region.positions[v + 2]];
  };
  const [a, b, c] = [corner(0), corner(1), corner(2)];
  const s = Math.sqrt(next());
  const t = next();
  const point = add(scale(a, 1 - s), add(scale(b, s * (1 - t)), scale(c, s * t)));
  return { point, normal: normalise(cross(sub(b, a), sub(c, a))) };
}

/** Column-major: y along the normal, turned round it, scaled. */
function standing(at: Vec3, normal: Vec3, turn: number, factor: number): Mat4 {
  const u = perpendicular(normal);
  const w = cross(u, normal);
  const across = add(scale(u, Math.cos(turn)), scale(w, Math.sin(turn)));
  const [x, y, z] = [across, normal, cross(across, normal)].map((axis) => scale(axis, factor));
  return [...x, 0, ...y, 0, ...z, 0, ...at, 1] as unknown as Mat4;
}

/** The fewest, from the first, that leave no more than a share of what lies beneath: each one hides more, so halving finds it. */
function enough(all: readonly Mat4[], share: number, shows: (some: readonly Mat4[]) => number): Mat4[] {
  let [low, high] = [1, all.length];
  while (low < high) {
    const n = (low + high) >> 1;
    if (shows(all.slice(0, n)) <= share) high = n;
    else low = n + 1;
  }
  return all.slice(0, high);
}

export const scatter = {
  kind: 'scatter',
  name: 'scatter over a region',
  about: 'Copies of everything above it, strewn over a region of another part: rivets, barnacles, drops, grit.',
  fields: [
    words('on', 'On part', { most: 60, names: 'part' }),
    words('region', 'Region', { most: 60, optional: true, names: 'region' }),
    whole('seed', 'Which arrangement', 0, 1_000_000),
    size('spacing', 'Spacing'),
    whole('most', 'At most', 1, 500),
    plain('smallest', 'Smallest', 0.05, 20),
    plain('largest', 'Largest', 0.05, 20),
    place('sunk', 'Sunk by'),
    toggle('turned', 'Turned at random'),
    plain('shows', 'Until shows', 0, 100, { optional: true, hint: 'per cent of what is under them; 0: all' }),
    ...handFields(false),
  ],
  fresh: () => ({
    name: 'Scatter',
    on: '?',

    seed: 1,
    spacing: 8,
    most: 60,
    smallest: 0.8,
    largest: 1.2,
    sunk: 0,
    turned: true,
  }),
  words: (s: ScatterStep, length) => `strewn every ${length(s.spacing, 1)}`,
  looksAt: (step: ScatterStep) => [step.on],
  copies(step: ScatterStep, surroundings: Pick<Surroundings, 'region'>, above?: () => PolyMesh | undefined) {
    if (step.largest < step.smallest)
      throw new FormError(
        'scatter/sizes',
        `The largest of “${step.name}” (${figure(step.largest)}) is smaller than its smallest (${figure(step.smallest)}).`,
      );
    const region = surroundings.region(step.on, step.region ?? '');
    const all = strew(step, region);
    const item = step.shows ? above?.() : undefined;
    return item ? enough(all, (step.shows ?? 0) / 100, (some) => showing(region, item, some)) : all;
  },
} satisfies StepKind<ScatterStep>;
