import type { Chart } from './flatten/chart';

/**
 * Stretch of one triangle by Sander et al. 2001: singular values of the map from the layout to the surface.
 *
 * @param q 9 numbers, corners on the surface, mm
 * @param s 6 numbers, corners in the layout, mm
 * @returns largest and smallest singular value; [∞, 0] for a triangle laid without area
 */
export function singularValues(q: ArrayLike<number>, s: ArrayLike<number>): [number, number] {
  const area = ((s[2] - s[0]) * (s[5] - s[1]) - (s[4] - s[0]) * (s[3] - s[1])) / 2;
  if (Math.abs(area) < 1e-14) return [Infinity, 0];
  let [a, b, c] = [0, 0, 0];
  for (let k = 0; k < 3; k++) {
    const ss = (q[k] * (s[3] - s[5]) + q[3 + k] * (s[5] - s[1]) + q[6 + k] * (s[1] - s[3])) / (2 * area);
    const st = (q[k] * (s[4] - s[2]) + q[3 + k] * (s[0] - s[4]) + q[6 + k] * (s[2] - s[0])) / (2 * area);
    a += ss * ss;
    b += ss * st;
    c += st * st;
  }
  const root = Math.sqrt((a - c) ** 2 + 4 * b * b);
  return [Math.sqrt((a + c + root) / 2), Math.sqrt(Math.max(0, (a + c - root) / 2))];
}

/** Collects the stretch of many triangles: L² weighted by area, and the largest. */
export class StretchSum {
  private weighted = 0;
  private area = 0;
  linf = 0;
  add(q: ArrayLike<number>, s: ArrayLike<number>): void {
    const [ux, uy, uz] = [q[3] - q[0], q[4] - q[1], q[5] - q[2]];
    const [vx, vy, vz] = [q[6] - q[0], q[7] - q[1], q[8] - q[2]];
    const area = 0.5 * Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx);
    if (area < 1e-9) return;
    const [large, small] = singularValues(q, s);
    this.weighted += ((large * large + small * small) / 2) * area;
    this.area += area;
    this.linf = Math.max(this.linf, large);
  }
  /** Every triangle of a chart. @returns its area, mm² */
  addChart({ triangles, points }: Pick<Chart, 'triangles' | 'points'>, uv: ArrayLike<number>): number {
    const before = this.area;
    const [q, s] = [new Float64Array(9), new Float64Array(6)];
    for (let t = 0; t < triangles.length; t += 3) {
      for (let k = 0; k < 3; k++) {
        const v = triangles[t + k];
        for (let j = 0; j < 3; j++) q[3 * k + j] = points[3 * v + j];
        s[2 * k] = uv[2 * v];
        s[2 * k + 1] = uv[2 * v + 1];
      }
      this.add(q, s);
    }
    return this.area - before;
  }
  get l2(): number {
    return this.area > 0 ? Math.sqrt(this.weighted / this.area) : 1;
  }
}
