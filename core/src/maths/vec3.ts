/** Three numbers; the unit is the caller's (positions in mm). */
export type Vec3 = readonly [number, number, number];

/** Three numbers, each made from its place. */
export const vec3 = (of: (k: 0 | 1 | 2) => number): [number, number, number] => [of(0), of(1), of(2)];
/** A vector made from another, number by number. */
export const mapVec = (v: Vec3, of: (x: number, k: 0 | 1 | 2) => number): [number, number, number] => [
  of(v[0], 0),
  of(v[1], 1),
  of(v[2], 2),
];

export const add = (a: Vec3, b: Vec3): Vec3 => [a[0] + b[0], a[1] + b[1], a[2] + b[2]];
export const sub = (a: Vec3, b: Vec3): Vec3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
export const scale = (a: Vec3, k: number): Vec3 => [a[0] * k, a[1] * k, a[2] * k];
export const dot = (a: Vec3, b: Vec3): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
export const cross = (a: Vec3, b: Vec3): Vec3 => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
export const length = (a: Vec3): number => Math.hypot(a[0], a[1], a[2]);
export const distance = (a: Vec3, b: Vec3): number => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);
/** A zero vector stays zero. */
export function normalise(a: Vec3): Vec3 {
  const l = length(a);
  return l > 0 ? scale(a, 1 / l) : a;
}
/** Vertex `i` of a flat array of triples. */
export const at = (flat: ArrayLike<number>, i: number): Vec3 => [flat[3 * i], flat[3 * i + 1], flat[3 * i + 2]];
/** Any unit vector at right angles to a unit vector. */
export function perpendicular(a: Vec3): Vec3 {
  const axis: Vec3 = Math.abs(a[0]) < 0.6 ? [1, 0, 0] : Math.abs(a[1]) < 0.6 ? [0, 1, 0] : [0, 0, 1];
  return normalise(cross(a, axis));
}
