import { InputError } from '../errors';
import type { Vec3 } from '../maths/vec3';

/** Search distances set by hand round a place of a part, mm, part space: full in its middle, fading out to its rim. */
export interface Dab {
  part: string;
  at: Vec3;
  radius: number;
  front: number;
  rear: number;
}

/** Dabs of a bake at most. */
export const MOST_DABS = 2000;
const LARGEST = 100_000;

/** Dabs as a request may hold them. @throws InputError `bake/dabs` in one sentence */
export function checkDabs(plain: unknown): Dab[] {
  const wrong = (what: string) => new InputError('bake/dabs', `A painted distance ${what}.`);
  if (!Array.isArray(plain)) throw wrong('has to be one of a list');
  if (plain.length > MOST_DABS)
    throw new InputError('bake/dabs', `No more than ${MOST_DABS} places can be painted; bake with other distances instead.`);
  return plain.map((one: unknown): Dab => {
    const { part, at, radius, front, rear } = (one ?? {}) as Partial<Dab>;
    const length = (x: unknown, least: number): x is number => typeof x === 'number' && x >= least && x <= LARGEST;
    if (typeof part !== 'string' || part.length === 0 || part.length > 60) throw wrong('has to name its part');
    if (!Array.isArray(at) || at.length !== 3 || !at.every((x) => typeof x === 'number' && Math.abs(x) <= LARGEST))
      throw wrong('has to say where it is');
    if (!length(radius, 0.01) || !length(front, 0) || !length(rear, 0))
      throw wrong(`has to have a brush and distances from 0 to ${LARGEST} mm`);
    return { part, at: [at[0], at[1], at[2]], radius, front, rear };
  });
}

/** Numbers of a dab in {@link laidDabs}. */
export const DAB = 6;
/** A part’s dabs as numbers that workers share: place, radius, front, rear. */
export const laidDabs = (dabs: readonly Dab[], part: string): Float64Array =>
  Float64Array.from(dabs.filter((d) => d.part === part).flatMap((d) => [...d.at, d.radius, d.front, d.rear]));

/** Distances at a place with what was painted over them, later dabs over earlier ones: `out` holds front and rear. */
export function painted(dabs: Float64Array, x: number, y: number, z: number, out: Float64Array): void {
  for (let i = 0; i < dabs.length; i += DAB) {
    const dx = x - dabs[i];
    const dy = y - dabs[i + 1];
    const dz = z - dabs[i + 2];
    const far = (dx * dx + dy * dy + dz * dz) / (dabs[i + 3] * dabs[i + 3]);
    if (far >= 1) continue;
    const w = (1 - far * far) ** 2;
    out[0] += w * (dabs[i + 4] - out[0]);
    out[1] += w * (dabs[i + 5] - out[1]);
  }
}
