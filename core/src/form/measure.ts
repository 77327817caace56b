import { cross, distance, dot, length, sub, type Vec3 } from '../maths/vec3';

/** What is measured between picked places. */
export type MeasureKind = 'distance' | 'angle' | 'radius';
/** How many places each kind takes. */
export const PLACES_FOR: Record<MeasureKind, number> = { distance: 2, angle: 3, radius: 3 };

/** A measured figure. */
export interface Measured {
  /** mm, or degrees for an angle. */
  value: number;
  unit: 'mm' | '°';
  /** The way from the first place to the second along x, y and z, for distances. */
  along?: Vec3;
}

/**
 * What lies between places on the piece: the distance of two; the angle at the second of three; the radius of the circle
 * through three, abc / 4·area.
 *
 * @returns null when they don't determine it: too few, in one place, or in a line for a radius
 */
export function measure(kind: MeasureKind, places: readonly Vec3[]): Measured | null {
  if (places.length < PLACES_FOR[kind]) return null;
  const [a, b, c] = places;
  if (kind === 'distance') return { value: distance(a, b), unit: 'mm', along: sub(b, a) };
  const [p, q] = [sub(a, b), sub(c, b)];
  const area = length(cross(p, q)) / 2;
  if (length(p) < 1e-9 || length(q) < 1e-9) return null;
  if (kind === 'angle') return { value: (Math.atan2(2 * area, dot(p, q)) * 180) / Math.PI, unit: '°' };
  const sides = length(p) * length(q) * distance(a, c);
  return area < 1e-9 * sides ** (2 / 3) ? null : { value: sides / (4 * area), unit: 'mm' };
}
