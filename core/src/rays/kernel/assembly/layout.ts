/**
 * How a tree lies in memory. Everything counts from its own start, so that a tree can be copied anywhere.
 *
 * A node is 128 bytes: the boxes of its four children, one number of all four beside each other, and where they lead.
 *
 *     0 … 95    min x ×4, min y ×4, min z ×4, max x ×4, max y ×4, max z ×4     (float32)
 *     96 … 111  ≥ 0: number of a node; < 0: ~number of a pack                    (int32)
 *     112 … 127 empty
 *
 * A pack is 160 bytes: the corners of four triangles, and the caller's numbers of them, −1 where there is none.
 *
 *     0 … 143   a x ×4, a y ×4, a z ×4, b x ×4 … c z ×4                          (float32)
 *     144 … 159 numbers                                                          (int32)
 *
 * A child that isn't there has a box that nothing meets. Corners that aren't there are not numbers, so no comparison holds.
 */
export const NODE: usize = 128;
export const REFS: usize = 96;
export const PACK: usize = 160;
export const IDS: usize = 144;

/** A ray: origin, direction, tMin, tMax; eight float64. */
export const RAY: usize = 64;

/** The start of a thread’s scratch: room for one vector, one ray, an answer (distance and two weights, float64), a ray’s shear, then the stack. */
export const LANES: usize = 0;
export const ONE: usize = 16;
export const ANSWER: usize = 80;
export const SHEAR: usize = 112;
export const STACK: usize = 160;
