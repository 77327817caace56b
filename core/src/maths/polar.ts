import { figure } from '../units/lengths';
import { determinant3, isRigid, type Mat4, multiply } from './mat4';

/** What a matrix does beside turning and moving: the symmetric factor of its polar decomposition (Higham 1986), mirrored if it mirrors. */
export function stretchOf(m: Mat4): Mat4 {
  let r = [0, 1, 2].map((row) => [0, 1, 2].map((k) => m[4 * k + row]));
  const a = r;
  for (let i = 0; i < 60; i++) {
    const t = inverseTransposed(r);
    r = r.map((x, row) => x.map((y, k) => (y + t[row][k]) / 2));
  }
  const det =
    r[0][0] * (r[1][1] * r[2][2] - r[1][2] * r[2][1]) -
    r[0][1] * (r[1][0] * r[2][2] - r[1][2] * r[2][0]) +
    r[0][2] * (r[1][0] * r[2][1] - r[1][1] * r[2][0]);
  // A mirror is taken to be one across x.
  const turn = det < 0 ? r.map((row) => [-row[0], row[1], row[2]]) : r;
  const s = [0, 1, 2].map((i) => [0, 1, 2].map((j) => turn[0][i] * a[0][j] + turn[1][i] * a[1][j] + turn[2][i] * a[2][j]));
  return [s[0][0], s[1][0], s[2][0], 0, s[0][1], s[1][1], s[2][1], 0, s[0][2], s[1][2], s[2][2], 0, 0, 0, 0, 1];
}

function inverseTransposed(r: readonly (readonly number[])[]): number[][] {
  const cross = (x: readonly number[], y: readonly number[]) => [
    x[1] * y[2] - x[2] * y[1],
    x[2] * y[0] - x[0] * y[2],
    x[0] * y[1] - x[1] * y[0],
  ];
  const [a, b, c] = r;
  const det = a[0] * (b[1] * c[2] - b[2] * c[1]) + a[1] * (b[2] * c[0] - b[0] * c[2]) + a[2] * (b[0] * c[1] - b[1] * c[0]);
  return [cross(b, c), cross(c, a), cross(a, b)].map((row) => row.map((x) => x / det));
}

/** Inverse of the upper three by three. */
export function inverse3(m: Mat4): Mat4 {
  const t = inverseTransposed([0, 1, 2].map((row) => [0, 1, 2].map((k) => m[4 * k + row])));
  return [t[0][0], t[0][1], t[0][2], 0, t[1][0], t[1][1], t[1][2], 0, t[2][0], t[2][1], t[2][2], 0, 0, 0, 0, 1];
}

/** A placement as a rigid one, and what has to be put into the mesh for it: `m = turn · stretch`. Null where it flattens what stands there. */
export function apart(m: Mat4): { turn: Mat4; stretch: Mat4 } | null {
  if (Math.abs(determinant3(m)) < 1e-12 * Math.hypot(m[0], m[1], m[2], m[4], m[5], m[6], m[8], m[9], m[10]) ** 3) return null;
  const stretch = stretchOf(m);
  const turn = multiply(m, inverse3(stretch));
  return isRigid(turn) ? { turn, stretch } : null;
}

/** The same size in every direction, and no mirror. */
export function isEven(stretch: Mat4): boolean {
  const s = stretch[0];
  return s > 0 && stretch.every((x, i) => i > 10 || i % 4 === 3 || Math.abs(x - (i % 5 === 0 ? s : 0)) < 1e-5 * s);
}

/** A stretch in words: `a scale of 2`, `a scale of 1 × 2 × 1`, `a mirror`, `a shear`. */
export function stretchWords(m: Mat4): string {
  const s = [0, 1, 2].map((k) => Math.hypot(m[4 * k], m[4 * k + 1], m[4 * k + 2]));
  const even = Math.max(...s) - Math.min(...s) < 1e-5 * Math.max(...s);
  const sizes = even ? (Math.abs(s[0] - 1) < 1e-6 ? '' : figure(s[0], 3)) : s.map((x) => figure(x, 3)).join(' × ');
  return [sizes && `a scale of ${sizes}`, determinant3(m) < 0 && 'a mirror'].filter(Boolean).join(' and ') || 'a shear';
}
