import { InputError } from '../errors';
import type { Vec3 } from './vec3';

/** Column-major 4 × 4, as in glTF. */
export type Mat4 = readonly number[];

export const IDENTITY: Mat4 = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];

/** `a · b`: first `b`, then `a`. Column-major, 16 numbers. */
export function multiply(a: Mat4, b: Mat4): Mat4 {
  const out = new Array<number>(16).fill(0);
  for (let c = 0; c < 4; c++) for (let r = 0; r < 4; r++) for (let k = 0; k < 4; k++) out[4 * c + r] += a[4 * k + r] * b[4 * c + k];
  return out;
}

export const translation = (t: Vec3): Mat4 => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, t[0], t[1], t[2], 1];
export const scaling = (s: Vec3): Mat4 => [s[0], 0, 0, 0, 0, s[1], 0, 0, 0, 0, s[2], 0, 0, 0, 0, 1];

/** Rotation about a unit axis by an angle in radians. */
export function rotation(axis: Vec3, angle: number): Mat4 {
  const [x, y, z] = axis;
  const c = Math.cos(angle);
  const s = Math.sin(angle);
  const t = 1 - c;
  return [
    t * x * x + c,
    t * x * y + s * z,
    t * x * z - s * y,
    0,
    t * x * y - s * z,
    t * y * y + c,
    t * y * z + s * x,
    0,
    t * x * z + s * y,
    t * y * z - s * x,
    t * z * z + c,
    0,
    0,
    0,
    0,
    1,
  ];
}

/** Rotations about x, then y, then z, in degrees, followed by a translation in mm. */
export function placement(move: Vec3, turnDegrees: Vec3): Mat4 {
  const r = turnDegrees.map((d) => (d * Math.PI) / 180);
  const turn = multiply(rotation([0, 0, 1], r[2]), multiply(rotation([0, 1, 0], r[1]), rotation([1, 0, 0], r[0])));
  return multiply(translation(move), turn);
}

/** The rotations of {@link placement} that turn as a rigid matrix does, degrees; of several, those with nothing about z. */
export function anglesOf(m: Mat4): [number, number, number] {
  const degrees = (r: number): number => (r * 180) / Math.PI;
  const y = Math.asin(Math.min(1, Math.max(-1, -m[2])));
  // Looking straight along y, turning about x and about z are the same.
  if (Math.abs(m[2]) > 1 - 1e-12) return [degrees(Math.atan2(-m[9], m[5])), degrees(y), 0];
  return [degrees(Math.atan2(m[6], m[10])), degrees(y), degrees(Math.atan2(m[1], m[0]))];
}

/** A node's matrix from glTF's translation, unit quaternion (x, y, z, w) and scale. */
export function compose(t: Vec3, q: readonly number[], s: Vec3): Mat4 {
  const [x, y, z, w] = q;
  return [
    (1 - 2 * (y * y + z * z)) * s[0],
    2 * (x * y + w * z) * s[0],
    2 * (x * z - w * y) * s[0],
    0,
    2 * (x * y - w * z) * s[1],
    (1 - 2 * (x * x + z * z)) * s[1],
    2 * (y * z + w * x) * s[1],
    0,
    2 * (x * z + w * y) * s[2],
    2 * (y * z - w * x) * s[2],
    (1 - 2 * (x * x + y * y)) * s[2],
    0,
    t[0],
    t[1],
    t[2],
    1,
  ];
}

export const transformPoint = (m: Mat4, p: Vec3): Vec3 => [
  m[0] * p[0] + m[4] * p[1] + m[8] * p[2] + m[12],
  m[1] * p[0] + m[5] * p[1] + m[9] * p[2] + m[13],
  m[2] * p[0] + m[6] * p[1] + m[10] * p[2] + m[14],
];
export const transformDirection = (m: Mat4, d: Vec3): Vec3 => [
  m[0] * d[0] + m[4] * d[1] + m[8] * d[2],
  m[1] * d[0] + m[5] * d[1] + m[9] * d[2],
  m[2] * d[0] + m[6] * d[1] + m[10] * d[2],
];

/** Determinant of the upper 3 × 3: negative for a mirror. */
export const determinant3 = (m: Mat4): number =>
  m[0] * (m[5] * m[10] - m[6] * m[9]) - m[4] * (m[1] * m[10] - m[2] * m[9]) + m[8] * (m[1] * m[6] - m[2] * m[5]);

/** The matrix that carries normals: the cofactors of the upper 3 × 3, as a Mat4. Mirrors keep the outward side. */
export function normalMatrix(m: Mat4): Mat4 {
  const sign = determinant3(m) < 0 ? -1 : 1;
  const c = (a: number, b: number, d: number, e: number) => sign * (m[a] * m[b] - m[d] * m[e]);
  return [
    c(5, 10, 6, 9),
    c(6, 8, 4, 10),
    c(4, 9, 5, 8),
    0,
    c(9, 2, 10, 1),
    c(10, 0, 8, 2),
    c(8, 1, 9, 0),
    0,
    c(1, 6, 2, 5),
    c(2, 4, 0, 6),
    c(0, 5, 1, 4),
    0,
    0,
    0,
    0,
    1,
  ];
}

export const isIdentity = (m: Mat4): boolean => m.every((x, i) => Math.abs(x - IDENTITY[i]) < 1e-12);

/** Whether a matrix only turns and moves: its columns are unit and at right angles, and it is no mirror. */
export function isRigid(m: Mat4): boolean {
  for (let a = 0; a < 3; a++)
    for (let b = a; b < 3; b++) {
      const d = m[4 * a] * m[4 * b] + m[4 * a + 1] * m[4 * b + 1] + m[4 * a + 2] * m[4 * b + 2];
      if (Math.abs(d - (a === b ? 1 : 0)) > 1e-6) return false;
    }
  return determinant3(m) > 0;
}

/** Inverse of an affine matrix. */
export function inverse(m: Mat4): Mat4 {
  const d = determinant3(m);
  const a = [
    (m[5] * m[10] - m[6] * m[9]) / d,
    (m[2] * m[9] - m[1] * m[10]) / d,
    (m[1] * m[6] - m[2] * m[5]) / d,
    (m[6] * m[8] - m[4] * m[10]) / d,
    (m[0] * m[10] - m[2] * m[8]) / d,
    (m[2] * m[4] - m[0] * m[6]) / d,
    (m[4] * m[9] - m[5] * m[8]) / d,
    (m[1] * m[8] - m[0] * m[9]) / d,
    (m[0] * m[5] - m[1] * m[4]) / d,
  ];
  const t = [0, 1, 2].map((r) => -(a[r] * m[12] + a[3 + r] * m[13] + a[6 + r] * m[14]));
  return [a[0], a[1], a[2], 0, a[3], a[4], a[5], 0, a[6], a[7], a[8], 0, t[0], t[1], t[2], 1];
}

/** Places as they come from outside: sixteen finite numbers each, that can be undone. @throws InputError */
export function checkPlacements(plain: unknown): Mat4[] {
  const good =
    Array.isArray(plain) &&
    plain.every(
      (m) =>
        Array.isArray(m) &&
        m.length === 16 &&
        m.every((x) => typeof x === 'number' && Number.isFinite(x) && Math.abs(x) < 1e7) &&
        Math.abs(determinant3(m as number[])) > 1e-12,
    );
  if (!good) throw new InputError('placements', 'A place has to be sixteen numbers that can be undone.');
  return plain as Mat4[];
}
