import { add, cross, dot, normalise, scale, sub, type Vec3 } from '../maths/vec3';

/** A rectangular lamp that shines to one side, evenly and by Lambert's law. Lengths in mm. */
export interface Lamp {
  name: string;
  centre: Vec3;
  /** Half its width and half its height, as vectors; `u × v` points where it shines. */
  u: Vec3;
  v: Vec3;
  /** Radiance, W/(m²·sr), by colour. */
  radiance: [number, number, number];
}

/** Area, m². */
export const lampArea = (l: Lamp): number => (4 * Math.hypot(...cross(l.u, l.v))) / 1e6;
/** Radiant power, W, of a one-sided Lambert emitter: P = π·L·A, the mean of its three channels. */
export const lampPower = (l: Lamp): number => (Math.PI * lampArea(l) * (l.radiance[0] + l.radiance[1] + l.radiance[2])) / 3;
export const lampNormal = (l: Lamp): Vec3 => normalise(cross(l.u, l.v));

export const corners = (l: Lamp): Vec3[] => [
  sub(sub(l.centre, l.u), l.v),
  sub(add(l.centre, l.u), l.v),
  add(add(l.centre, l.u), l.v),
  add(sub(l.centre, l.u), l.v),
];

/**
 * Share of the cosine-weighted half-space over a point that a polygon fills: irradiance is π·L times it. Lambert's formula,
 * 1/2π · Σ θᵢ cos γᵢ over the edges (Lambert 1760; Howell's catalogue of configuration factors, element to polygon); what
 * lies below the horizon is cut off first.
 *
 * @param normal unit, of the receiving element
 */
export function formFactor(point: Vec3, normal: Vec3, polygon: readonly Vec3[]): number {
  const above: Vec3[] = [];
  for (let i = 0; i < polygon.length; i++) {
    const a = sub(polygon[i], point);
    const b = sub(polygon[(i + 1) % polygon.length], point);
    const [ha, hb] = [dot(a, normal), dot(b, normal)];
    if (ha >= 0) above.push(a);
    if (ha >= 0 !== hb >= 0) above.push(add(a, scale(sub(b, a), ha / (ha - hb))));
  }
  if (above.length < 3) return 0;
  let sum = 0;
  for (let i = 0; i < above.length; i++) {
    const a = normalise(above[i]);
    const b = normalise(above[(i + 1) % above.length]);
    const across = cross(a, b);
    const l = Math.hypot(...across);
    if (l < 1e-12) continue;
    sum += (Math.atan2(l, dot(a, b)) * dot(across, normal)) / l;
  }
  return Math.abs(sum) / (2 * Math.PI);
}

/** Irradiance a lamp gives a surface element, W/m², the mean of its channels. Nothing stands between. */
export function irradiance(lamp: Lamp, point: Vec3, normal: Vec3): number {
  if (dot(sub(point, lamp.centre), lampNormal(lamp)) <= 0) return 0;
  const mean = (lamp.radiance[0] + lamp.radiance[1] + lamp.radiance[2]) / 3;
  return Math.PI * mean * formFactor(point, normal, corners(lamp));
}
