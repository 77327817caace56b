import type { Px } from './match';
import { type Strip, snapStrip } from './snap';

/** How far to both sides of an edge that was drawn the picture’s own is looked for, px. */
export const SNAP_REACH = 14;
/** The middle of the picture’s edge lies outside the ends of a drawn one a little: they are left out, by this share each. */
const ENDS = 0.04;

/**
 * An edge drawn by hand, drawn to the picture’s own: each end moves across the line, not along it.
 *
 * @param strip the light along a line and so many px to both sides of it
 * @returns null where nothing runs along it
 */
export function snapEdge(a: Px, b: Px, strip: (a: Px, b: Px, reach: number) => Strip | null): { points: [Px, Px]; rmsPx: number } | null {
  let points: [Px, Px] = [a, b];
  let rmsPx = 0;
  // Once from afar, once again along the line found.
  for (const reach of [SNAP_REACH, SNAP_REACH / 2]) {
    const [p, q] = points;
    const [dx, dy] = [q[0] - p[0], q[1] - p[1]];
    const length = Math.hypot(dx, dy);
    if (length < 16) return null;
    const inside = (t: number): Px => [p[0] + t * dx, p[1] + t * dy];
    const made = strip(inside(ENDS), inside(1 - ENDS), reach);
    const found = made && snapStrip(made);
    if (!found) return null;
    // Across the line, to its right as it runs: down in the strip.
    const [nx, ny] = [-dy / length, dx / length];
    const slope = (found.to - found.from) / (1 - 2 * ENDS);
    const at = (t: number) => found.from + slope * (t - ENDS);
    points = [
      [p[0] + at(0) * nx, p[1] + at(0) * ny],
      [q[0] + at(1) * nx, q[1] + at(1) * ny],
    ];
    rmsPx = found.rmsPx;
  }
  return { points, rmsPx };
}
