import { linearToSrgb, srgbToLinear } from './srgb';

/** A picture whose colours are asked for: RGBA, 8 bits, sRGB, alpha not multiplied in, top row first. */
export interface Rgba8 {
  width: number;
  height: number;
  data: ArrayLike<number>;
}

/**
 * The mean colour of a square of a picture, sRGB 0 … 1: light is averaged, not its encoding, and what covers more counts more.
 *
 * @param side of the square round (`x`, `y`), px; what lies beyond the picture is left out
 * @returns null where the picture is clear all over the square
 */
export function meanColour({ width, height, data }: Rgba8, x: number, y: number, side: number): [number, number, number] | null {
  const sum = [0, 0, 0];
  let weight = 0;
  const [left, top] = [x - Math.floor((side - 1) / 2), y - Math.floor((side - 1) / 2)];
  for (let j = Math.max(0, top); j < Math.min(height, top + side); j++)
    for (let i = Math.max(0, left); i < Math.min(width, left + side); i++) {
      const at = 4 * (j * width + i);
      weight += data[at + 3];
      for (let k = 0; k < 3; k++) sum[k] += data[at + 3] * srgbToLinear(data[at + k] / 255);
    }
  return weight > 0 ? [linearToSrgb(sum[0] / weight), linearToSrgb(sum[1] / weight), linearToSrgb(sum[2] / weight)] : null;
}
