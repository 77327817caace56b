import { blotches, noise3 } from '../noise';

/** How large the largest rubbed patch is, mm. */
export const WEAR_BLOTCH_MM = 9;

/**
 * How soon a place is rubbed, larger is sooner: convex edges first, broken up by blotches so that no edge is rubbed evenly.
 *
 * @param bend curvature times the radius it was baked at: positive on convex edges, 1 about a right angle
 * @param x @param y @param z mm
 */
export const wearDriver = (bend: number, x: number, y: number, z: number, seed: number): number =>
  // Most of a piece is flat, where blotches have nothing to break up.
  (bend > 0 ? bend * (1 + 0.55 * blotches(x, y, z, WEAR_BLOTCH_MM, 3, seed)) : 0) + 0.04 * noise3(x / 2.2, y / 2.2, z / 2.2, seed + 71);
