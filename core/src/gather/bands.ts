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

/** Triangles by the bands of rows they touch: CSR of part and triangle. */
export interface Binned {
  bandStart: Int32Array;
  bandPart: Int32Array;
  bandTriangle: Int32Array;
}

/** @param parts layouts drawn to, 6 numbers a triangle */
export function binned(parts: readonly { uv: Float32Array }[], size: number): Binned {
  const bands = bandsOf(size);
  const lists: number[][] = Array.from({ length: bands }, () => []);
  for (const [p, { uv }] of parts.entries())
    for (let t = 0; t < uv.length / 6; t++) {
      const ys = [0, 1, 2].map((k) => (1 - uv[6 * t + 2 * k + 1]) * size);
      const from = Math.max(0, Math.floor((Math.min(...ys) - 1) / BAND));
      const to = Math.min(bands - 1, Math.floor((Math.max(...ys) + 1) / BAND));
      for (let b = from; b <= to; b++) lists[b].push(p, t);
    }
  const bandStart = new Int32Array(bands + 1);
  for (const [b, list] of lists.entries()) bandStart[b + 1] = bandStart[b] + list.length / 2;
  const bandPart = new Int32Array(bandStart[bands]);
  const bandTriangle = new Int32Array(bandStart[bands]);
  let at = 0;
  for (const list of lists)
    for (let i = 0; i < list.length; i += 2) {
      bandPart[at] = list[i];
      bandTriangle[at++] = list[i + 1];
    }
  return { bandStart, bandPart, bandTriangle };
}

/** A band's rows, and every triangle in them twice: first for what it covers, then, when all have been, for what it only grazes. */
export function eachInBand(
  { size, bandStart, bandPart, bandTriangle }: Binned & { size: number },
  band: number,
  covers: (part: number, triangle: number, from: number, to: number) => void,
  grazes: (part: number, triangle: number, from: number, to: number) => void,
): [from: number, to: number] {
  const [from, to] = [band * BAND, Math.min(size, (band + 1) * BAND)];
  for (const visit of [covers, grazes])
    for (let i = bandStart[band]; i < bandStart[band + 1]; i++) visit(bandPart[i], bandTriangle[i], from, to);
  return [from, to];
}
