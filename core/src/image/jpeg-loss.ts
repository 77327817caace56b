import jpeg from 'jpeg-js';
import type { Pixels } from './png';
import { srgbToLinear } from './srgb';

/** A colour picture as JPEG, and what it lost by that. */
export interface LossyPicture {
  bytes: Uint8Array;
  /** Levels of 255: the largest difference of any channel, and the mean of all. */
  largest: number;
  mean: number;
  /** Share of pixels that differ by more than is just seen side by side, see {@link JUST_SEEN}. */
  seen: number;
}

/** A difference of colour that is just seen, ΔE*ab: 2.3 by Mahy, Van Eycken and Oosterlinck, 1994 (from memory). */
export const JUST_SEEN = 2.3;
/** The white that sRGB is seen by: D65 of two degrees (IEC 61966-2-1). */
const WHITE = [0.95047, 1, 1.08883];
const LINEAR = Float64Array.from({ length: 256 }, (_, i) => srgbToLinear(i / 255));

/** The cube root that lightness goes by, with its straight beginning (CIE 15). */
const f = (t: number): number => (t > (6 / 29) ** 3 ? Math.cbrt(t) : t / (3 * (6 / 29) ** 2) + 4 / 29);

/** L*, a*, b* of an sRGB colour of 8 bits (CIE 15, matrix of IEC 61966-2-1). */
export function labOf(red: number, green: number, blue: number): [l: number, a: number, b: number] {
  const [r, g, b] = [LINEAR[red], LINEAR[green], LINEAR[blue]];
  const x = f((0.4124564 * r + 0.3575761 * g + 0.1804375 * b) / WHITE[0]);
  const y = f((0.2126729 * r + 0.7151522 * g + 0.072175 * b) / WHITE[1]);
  const z = f((0.0193339 * r + 0.119192 * g + 0.9503041 * b) / WHITE[2]);
  return [116 * y - 16, 500 * (x - y), 200 * (y - z)];
}

/**
 * A picture as JPEG, read back and held against what it was. Alpha is left out: the format has none.
 *
 * @param p sRGB of 8 bits, 3 or 4 channels @param quality 1 … 100
 */
export function asJpeg({ width, height, channels, data }: Pixels, quality: number): LossyPicture {
  const rgba = new Uint8Array(4 * width * height);
  for (let i = 0, o = 0; o < rgba.length; i += channels, o += 4) {
    rgba[o] = data[i];
    rgba[o + 1] = data[i + 1];
    rgba[o + 2] = data[i + 2];
    rgba[o + 3] = 255;
  }
  const bytes = new Uint8Array(jpeg.encode({ width, height, data: rgba }, quality).data);
  const back = jpeg.decode(bytes, { useTArray: true, formatAsRGBA: true, maxMemoryUsageInMB: 4096, maxResolutionInMP: 400 }).data;
  let [largest, sum, seen] = [0, 0, 0];
  for (let i = 0; i < rgba.length; i += 4) {
    let off = 0;
    for (let k = 0; k < 3; k++) {
      const d = Math.abs(rgba[i + k] - back[i + k]);
      sum += d;
      if (d > off) off = d;
    }
    if (off > largest) largest = off;
    // A level of one channel is less than is seen anywhere.
    if (off < 2) continue;
    const [l0, a0, b0] = labOf(rgba[i], rgba[i + 1], rgba[i + 2]);
    const [l1, a1, b1] = labOf(back[i], back[i + 1], back[i + 2]);
    if ((l0 - l1) ** 2 + (a0 - a1) ** 2 + (b0 - b1) ** 2 > JUST_SEEN ** 2) seen++;
  }
  const count = width * height;
  return { bytes, largest, mean: sum / (3 * count), seen: seen / count };
}
