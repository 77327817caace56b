/** Rows drawn at once. */
export const BAND = 32;
export const bandsOf = (size: number): number => Math.ceil(size / BAND);
/** Samples along a side of a texel at most; what is finer still is read from smaller levels. */
export const MOST_SAMPLES = 8;

/** Samples along a side of a texel, for a picture so many times as fine. */
export const samplesFor = (finer: number): number => Math.max(1, Math.min(MOST_SAMPLES, Math.ceil(finer - 0.05)));

/** What is drawn, in memory that workers can share. */
export interface Gathered {
  size: number;
  /** sRGB and alpha, 4 per texel. */
  baseColour: Uint8Array;
  /** Occlusion, roughness, metallic. */
  orm: Uint8Array;
  /** Tangent space, Y up. */
  normal: Uint8Array;
  emission: Uint8Array;
  height: Uint8Array;
  transmission: Uint8Array;
  /** 0 outside, 1 drawn to, 2 beside what is drawn to. */
  state: Uint8Array;
}

export function emptyGathered(size: number, allocate: (bytes: number) => ArrayBufferLike = (n) => new ArrayBuffer(n)): Gathered {
  const n = size * size;
  const plane = (each: number) => new Uint8Array(allocate(each * n));
  return {
    size,
    baseColour: plane(4),
    orm: plane(3),
    normal: plane(3),
    emission: plane(3),
    height: plane(1),
    transmission: plane(1),
    state: plane(1),
  };
}

/** What a band came to. */
export interface BandCounts {
  /** Places asked for, and those that the source has not. */
  samples: number;
  lost: number;
}
