import { type Vec3, vec3 } from '../../maths/vec3';

/**
 * Shares of P, Q and R that place the points of a bevel's profile: from P on one face to R on the other, Q where the faces met.
 *
 * An arc touches both faces: points at equal angles on a circle, in the barycentric coordinates of its two tangent points and
 * the place its tangents meet. Affine maps keep those shares, so a slanted section gets the ellipse that a cylinder has there.
 *
 * @param inner angle between the faces inside the body, radians
 * @returns n + 1 triples
 */
export function profileShares(n: number, inner: number, shape: 'arc' | 'straight' | 'held'): Vec3[] {
  // Half of the turn from face to face.
  const half = Math.abs(Math.PI - inner) / 2;
  return Array.from({ length: n + 1 }, (_, i): Vec3 => {
    const t = i / n;
    if (shape === 'held') return [i === 0 ? 1 : 0, i > 0 && i < n ? 1 : 0, i === n ? 1 : 0];
    if (shape === 'straight' || half < 1e-3) return [1 - t, 0, t];
    const angle = (2 * t - 1) * half;
    const [c, inverse] = [Math.cos(half), 1 / Math.cos(half)];
    const ends = (inverse - Math.cos(angle)) / (inverse - c);
    const lean = Math.sin(angle) / Math.sin(half);
    return [(ends - lean) / 2, 1 - ends, (ends + lean) / 2];
  });
}

/** The sphere nearest to some points in the algebraic sense; null where they lie in a plane or are too few. */
export function sphereThrough(points: readonly Vec3[]): { centre: Vec3; radius: number; off: number } | null {
  const n = points.length;
  if (n < 4) return null;
  const middle = [0, 1, 2].map((k) => points.reduce((s, p) => s + p[k], 0) / n);
  const size = Math.max(...points.map((p) => Math.hypot(p[0] - middle[0], p[1] - middle[1], p[2] - middle[2]))) || 1;
  // |p|² = 2 c·p + d about the middle, in units of the size.
  const m = Array.from({ length: 4 }, () => new Array<number>(5).fill(0));
  const local = points.map((p) => [0, 1, 2].map((k) => (p[k] - middle[k]) / size));
  for (const p of local) {
    const row = [2 * p[0], 2 * p[1], 2 * p[2], 1, p[0] ** 2 + p[1] ** 2 + p[2] ** 2];
    for (let i = 0; i < 4; i++) for (let j = 0; j < 5; j++) m[i][j] += row[i] * row[j];
  }
  for (let i = 0; i < 4; i++) {
    let pivot = i;
    for (let r = i + 1; r < 4; r++) if (Math.abs(m[r][i]) > Math.abs(m[pivot][i])) pivot = r;
    [m[i], m[pivot]] = [m[pivot], m[i]];
    if (Math.abs(m[i][i]) < 1e-6) return null;
    for (let r = 0; r < 4; r++) {
      if (r === i) continue;
      const k = m[r][i] / m[i][i];
      for (let j = i; j < 5; j++) m[r][j] -= k * m[i][j];
    }
  }
  const c = [0, 1, 2].map((i) => m[i][4] / m[i][i]);
  const radius = Math.sqrt(Math.max(0, m[3][4] / m[3][3] + c[0] ** 2 + c[1] ** 2 + c[2] ** 2));
  const off = Math.max(...local.map((p) => Math.abs(Math.hypot(p[0] - c[0], p[1] - c[1], p[2] - c[2]) - radius))) / Math.max(radius, 1e-9);
  return { centre: vec3((k) => middle[k] + size * c[k]), radius: radius * size, off };
}
