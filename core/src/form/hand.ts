import { type Mat4, multiply, rotation, translation } from '../maths/mat4';
import { random } from '../maths/random';
import { scale, type Vec3 } from '../maths/vec3';
import { boundsOf } from '../mesh/measures';
import type { PolyMesh } from '../mesh/polymesh';
import { angle, type Field, place, plain, toggle, whole } from './fields';
import type { StepBase } from './step';

/** What a hand does to copies that would all be alike: none quite the size, as upright or as turned as the next, and single ones moved or left out. */
export interface Hand {
  /** Which arrangement; the same one always comes out the same. */
  handSeed?: number;
  /** Sizes as shares of the original; 1 when absent. */
  handSmallest?: number;
  handLargest?: number;
  /** Each leans by something between these, degrees, in a direction of its own. */
  leanLeast?: number;
  leanMost?: number;
  /** Turned about its upright by up to this, either way, degrees. */
  turnMost?: number;
  /** Single copies, by their number from 1. */
  own?: { id: string; copy: number; dx: number; dy: number; dz: number; drop: boolean }[];
}

const varies = { optional: true } as const;
/** The fields of a hand. @param scales whether the step has no sizes of its own */
export const handFields = (scales: boolean): Field[] => [
  ...(scales
    ? [
        plain('handSmallest', 'Smallest', 0.05, 20, { ...varies, standing: 1, hint: 'share of its size' }),
        plain('handLargest', 'Largest', 0.05, 20, { ...varies, standing: 1, hint: 'share of its size' }),
      ]
    : []),
  angle('leanLeast', 'Leans by at least', { ...varies, min: 0, max: 90 }),
  angle('leanMost', 'Leans by at most', { ...varies, min: 0, max: 90 }),
  ...(scales ? [angle('turnMost', 'Turned by up to', { ...varies, min: 0, max: 180, hint: 'either way' })] : []),
  ...(scales ? [whole('handSeed', 'Which arrangement', 0, 1_000_000, varies)] : []),
  {
    type: 'list',
    key: 'own',
    label: 'Single copies',
    one: 'Single copy',
    optional: true,
    least: 0,
    most: 200,
    fields: [
      whole('copy', 'Number', 1, 500),
      place('dx', 'Moved across'),
      place('dy', 'Moved up'),
      place('dz', 'Moved towards'),
      toggle('drop', 'Left out'),
    ],
    fresh: (list) => ({ copy: (Number(list[list.length - 1]?.copy) || 0) + 1, dx: 0, dy: 0, dz: 0, drop: false }),
  },
];

/** The middle of what a mesh stands on: copies are varied about it. */
function footOf(mesh: PolyMesh): Vec3 {
  const { min, max } = boundsOf(mesh);
  return [(min[0] + max[0]) / 2, min[1], (min[2] + max[2]) / 2];
}

/** How many of so many copies are left. */
export const leftOf = (step: Hand, count: number): number =>
  count - new Set((step.own ?? []).filter((o) => o.drop && o.copy <= count).map((o) => o.copy)).size;

/**
 * Copies as a hand would have set them. What one gets depends on the seed and its own number only: more copies, or one left out, change
 * none of the others.
 *
 * @param above what is copied, in its own space, mm: they are sized, leant and turned about the middle of its foot. Asked only when they are
 */
export function byHand(copies: readonly Mat4[], step: StepBase & Hand, above: () => PolyMesh | undefined): Mat4[] {
  const { handSmallest = 1, handLargest = 1, leanLeast = 0, leanMost = 0, turnMost = 0, own = [] } = step;
  const [least, most] = [Math.min(handSmallest, handLargest), Math.max(handSmallest, handLargest)];
  const still = least === 1 && most === 1 && leanLeast === 0 && leanMost === 0 && turnMost === 0;
  if (still && own.length === 0) return [...copies];
  const mesh = still ? undefined : above();
  const foot: Vec3 = mesh ? footOf(mesh) : [0, 0, 0];
  return copies.flatMap((m, i) => {
    const mine = own.find((o) => o.copy === i + 1);
    if (mine?.drop) return [];
    const placed = mine ? multiply(translation([mine.dx, mine.dy, mine.dz]), m) : m;
    if (still) return [placed];
    const next = random(((step.handSeed ?? 1) * 65_537 + i * 7919 + 1) >>> 0);
    const [size, way, lean, turn] = [next(), next(), next(), next()];
    const factor = least + (most - least) * size;
    const direction = 2 * Math.PI * way;
    const [low, high] = [Math.min(leanLeast, leanMost), Math.max(leanLeast, leanMost)].map((d) => (d * Math.PI) / 180);
    const leant = multiply(
      rotation([Math.cos(direction), 0, Math.sin(direction)], low + (high - low) * lean),
      rotation([0, 1, 0], ((2 * turn - 1) * turnMost * Math.PI) / 180),
    );
    const sized = [factor, 0, 0, 0, 0, factor, 0, 0, 0, 0, factor, 0, 0, 0, 0, 1] as unknown as Mat4;
    const about = multiply(translation(foot), multiply(multiply(leant, sized), translation(scale(foot, -1))));
    return [multiply(placed, about)];
  });
}
