/** Side of a preview, texels. */
export const PREVIEW = 256;

/** What a bake has to do, as far as it is known before it begins. */
export interface BakeLoad {
  /** Side of the texture, texels. */
  size: number;
  /** Share of it that islands cover. */
  coverage: number;
  /** Samples along a texel's side. */
  samples: number;
  /** Rays a texel for occlusion, 0 for none. */
  occlusionRays: number;
  /** Whether curvature is baked. */
  curvature: boolean;
  lowTriangles: number;
  highTriangles: number;
  /** Triangles of the high mesh that steps have yet to form. */
  formedTriangles: number;
}

/**
 * Nanoseconds on one core of some 3 GHz, fitted to fifteen bakes of pieces of 28 000 to 167 000 triangles (`forecast.test.ts` has them). How a machine differs from that one, each browser learns from its own bakes.
 */
const COST = {
  /** Measuring distances, trees, reading: in one thread. */
  start: 0.95e9,
  formed: 4800,
  high: 4000,
  low: 100_000,
  /** Writing maps and judging, for each texel of the tile. */
  texel: 1300,
  /** In all threads, for each covered texel: a sample, a ray of occlusion, the walk for curvature. */
  sample: 580,
  shade: 470,
  bend: 3500,
} as const;

/** About how long a bake takes, s, with so many threads to cast its rays. */
export function bakeSeconds(load: BakeLoad, threads: number): number {
  const covered = load.coverage * load.size ** 2;
  const each = COST.sample * load.samples ** 2 + COST.shade * load.occlusionRays + (load.curvature ? COST.bend : 0);
  const alone =
    COST.start +
    COST.formed * load.formedTriangles +
    COST.high * load.highTriangles +
    COST.low * load.lowTriangles +
    COST.texel * load.size ** 2;
  return 1e-9 * (alone + (covered * each) / Math.max(1, threads));
}
