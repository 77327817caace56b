import { blotches, noise3 } from '../noise';

/** How large the largest smudge is, mm. */
export const DIRT_BLOTCH_MM = 14;

/**
 * How soon dirt gathers, larger is sooner: where little light gets in and in hollows, broken up by blotches.
 *
 * @param open occlusion as baked, 1 is open @param bend curvature times its radius, negative in hollows
 */
export const dirtDriver = (open: number, bend: number, x: number, y: number, z: number, seed: number): number =>
  // Where all is open there is nothing to break up.
  (open < 1 ? (1 - open) * (1 + 0.45 * blotches(x, y, z, DIRT_BLOTCH_MM, 3, seed)) : 0) +
  0.35 * Math.max(0, -bend) +
  0.06 * noise3(x / 3, y / 3, z / 3, seed + 37);
