import { linearToSrgb, srgbToLinear } from '../image/srgb';
import type { Wrap } from '../surface/texturing';

/** A picture as it is sampled: 8 bits, top row first, and smaller levels of it, each half the one before. In memory that workers can share. */
export interface SourcePicture {
  width: number;
  height: number;
  channels: 1 | 2 | 3 | 4;
  data: Uint8Array;
}

/** Of an sRGB byte the light it stands for. */
export const LINEAR = Float64Array.from({ length: 256 }, (_, i) => srgbToLinear(i / 255));
const AS_IS = Float64Array.from({ length: 256 }, (_, i) => i / 255);

/** sRGB bytes of light added up from four texels. */
const FOUR_TO_SRGB = Uint8Array.from({ length: 8193 }, (_, i) => Math.round(255 * linearToSrgb(i / 8192)));

/** Half as large, each texel the mean of four; colours are meant in linear light. */
export function halved({ width, height, channels, data }: SourcePicture, colour: boolean): SourcePicture {
  const [w, h] = [Math.max(1, width >> 1), Math.max(1, height >> 1)];
  const out = new Uint8Array(channels * w * h);
  // Grey with alpha has one channel of light.
  const light = colour ? (channels === 2 ? 1 : Math.min(3, channels)) : 0;
  for (let y = 0, o = 0; y < h; y++) {
    const up = Math.min(height - 1, 2 * y) * width;
    const low = Math.min(height - 1, 2 * y + 1) * width;
    for (let x = 0; x < w; x++, o += channels) {
      const left = Math.min(width - 1, 2 * x);
      const right = Math.min(width - 1, 2 * x + 1);
      const a = channels * (up + left);
      const b = channels * (up + right);
      const c = channels * (low + left);
      const d = channels * (low + right);
      for (let k = 0; k < light; k++)
        out[o + k] =
          FOUR_TO_SRGB[Math.round(2048 * (LINEAR[data[a + k]] + LINEAR[data[b + k]] + LINEAR[data[c + k]] + LINEAR[data[d + k]]))];
      for (let k = light; k < channels; k++) out[o + k] = Math.round((data[a + k] + data[b + k] + data[c + k] + data[d + k]) / 4);
    }
  }
  return { width: w, height: h, channels, data: out };
}

/** Number of a texel beyond the picture as one inside it. */
function within(i: number, n: number, wrap: Wrap): number {
  if (wrap === 'clamp') return i < 0 ? 0 : i >= n ? n - 1 : i;
  if (wrap === 'repeat') return ((i % n) + n) % n;
  const m = ((i % (2 * n)) + 2 * n) % (2 * n);
  return m < n ? m : 2 * n - 1 - m;
}

/**
 * A picture at s, t (t up), between its texels or at the nearest, as four numbers 0 … 1: colours in linear light, what it lacks as it is
 * usually taken (grey in all three, alpha 1).
 */
export function samplePicture(
  p: SourcePicture,
  s: number,
  t: number,
  wrap: readonly [Wrap, Wrap],
  nearest: boolean,
  colour: boolean,
  out: Float64Array,
): void {
  const { width, height, channels, data } = p;
  const x = s * width - 0.5;
  const y = (1 - t) * height - 0.5;
  const i = nearest ? Math.round(x) : Math.floor(x);
  const j = nearest ? Math.round(y) : Math.floor(y);
  const fx = nearest ? 0 : x - i;
  const fy = nearest ? 0 : y - j;
  const i0 = within(i, width, wrap[0]);
  const i1 = within(i + 1, width, wrap[0]);
  const j0 = within(j, height, wrap[1]) * width;
  const j1 = within(j + 1, height, wrap[1]) * width;
  const a = channels * (j0 + i0);
  const b = channels * (j0 + i1);
  const c = channels * (j1 + i0);
  const d = channels * (j1 + i1);
  const wa = (1 - fx) * (1 - fy);
  const wb = fx * (1 - fy);
  const wc = (1 - fx) * fy;
  const wd = fx * fy;
  const table = colour ? LINEAR : AS_IS;
  const light = channels < 3 ? 1 : 3;
  for (let k = 0; k < light; k++)
    out[k] = wa * table[data[a + k]] + wb * table[data[b + k]] + wc * table[data[c + k]] + wd * table[data[d + k]];
  if (light === 1) {
    out[1] = out[0];
    out[2] = out[0];
  }
  const alpha = channels === 2 ? 1 : 3;
  out[3] =
    channels === 2 || channels === 4
      ? (wa * data[a + alpha] + wb * data[b + alpha] + wc * data[c + alpha] + wd * data[d + alpha]) / 255
      : 1;
}
