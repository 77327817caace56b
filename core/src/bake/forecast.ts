import type { FurtherMap } from './maps/further';

/** Side of a preview, texels. */
export const PREVIEW = 256;

/** Bytes a texel of each further map, while it is baked. */
const FURTHER_BYTES: Record<FurtherMap, number> = {
  objectNormal: 12,
  bentNormal: 12,
  thickness: 4,
  position: 12,
  height: 4,
  id: 2,
  opacity: 4,
};
/** A texel’s normal and state; and what finishing it needs beside: the order in which values are carried outward, the picture, the file. */
const TEXEL_BYTES = 13;
const FINISH_BYTES = 20;
/** What a bake may take at once: a page has about 4 GB. */
export const MOST_BYTES = 3e9;

/** About how much memory a bake takes at its highest, without its meshes. */
export const bakeBytes = ({ size, occlusion, curvature, further }: BakeMemory): number =>
  size *
  size *
  (TEXEL_BYTES + FINISH_BYTES + (occlusion ? 4 : 0) + (curvature ? 4 : 0) + further.reduce((n, m) => n + FURTHER_BYTES[m], 0));

/** What the memory of a bake follows from. */
interface BakeMemory {
  size: number;
  occlusion: boolean;
  curvature: boolean;
  further: readonly FurtherMap[];
}

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

/** Samples of a texel that are cast: where the first agree, the others are left out. Measured on the lantern: half of 4 × 4, a third of 8 × 8. */
const samplesCast = (s: number): number => s * s * (s > 2 ? 0.25 + 1 / s : 1);

/** About how long a bake takes, s, with so many threads to cast its rays. */
export function bakeSeconds(load: BakeLoad, threads: number): number {
  const covered = load.coverage * load.size ** 2;
  const each = COST.sample * samplesCast(load.samples) + COST.shade * load.occlusionRays + (load.curvature ? COST.bend : 0);
  const alone =
    COST.start +
    COST.formed * load.formedTriangles +
    COST.high * load.highTriangles +
    COST.low * load.lowTriangles +
    COST.texel * load.size ** 2;
  return 1e-9 * (alone + (covered * each) / Math.max(1, threads));
}
