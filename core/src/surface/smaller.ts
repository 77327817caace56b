import type { Pixels } from '../image/png';
import { linearToSrgb, srgbToLinear } from '../image/srgb';

/** A set's pictures, 8 bits, all of one size. */
export interface SmallerSet {
  /** sRGB. */
  baseColour: Pixels;
  /** Occlusion, roughness, metallic. */
  orm: Pixels;
  /** Tangent space. */
  normal?: Pixels;
  emissive?: Pixels;
  coat?: Pixels;
  clear?: Pixels;
}

const LINEAR = Float64Array.from({ length: 256 }, (_, i) => srgbToLinear(i / 255));
const byte = (x: number): number => Math.min(255, Math.max(0, Math.round(255 * x)));

/** Roughness of what is rough by itself and leans by slopes of a variance σ² along either axis: Beckmann's lobes fold as α′² = α² + 2σ² (LEAN mapping, Olano and Baker 2010), with α = r²; for GGX near enough. */
export const foldedRoughness = (meanAlpha2: number, slopeVariance: number): number => Math.min(1, (meanAlpha2 + 2 * slopeVariance) ** 0.25);

/**
 * A set at a smaller size: every texel what its block was. Light is averaged as light, occlusion, metal and coats as shares, directions as the
 * slope they stand for; how unlike a block's directions are goes into its roughness, so that it is as dull from afar as it was near.
 *
 * @param to size, px; the set's own has to be a multiple of it
 */
export function smallerSet(set: SmallerSet, to: number): SmallerSet {
  const from = set.baseColour.width;
  const k = from / to;
  const n = k * k;
  const made = (p: Pixels): Pixels => ({ ...p, width: to, height: to, data: new Uint8Array(p.channels * to * to) });
  const out: SmallerSet = {
    baseColour: made(set.baseColour),
    orm: made(set.orm),
    ...(set.normal && { normal: made(set.normal) }),
    ...(set.emissive && { emissive: made(set.emissive) }),
    ...(set.coat && { coat: made(set.coat) }),
    ...(set.clear && { clear: made(set.clear) }),
  };
  /** The mean of a channel over a block, by what its bytes stand for. */
  const mean = ({ data, channels }: Pixels, x: number, y: number, c: number, of: (byte: number) => number): number => {
    let sum = 0;
    for (let j = 0; j < k; j++)
      for (let i = 0; i < k; i++) sum += of((data as Uint8Array)[channels * ((y * k + j) * from + x * k + i) + c]);
    return sum / n;
  };
  const light = (b: number) => LINEAR[b];
  const share = (b: number) => b / 255;
  const alpha2 = (b: number) => (b / 255) ** 4;
  for (let y = 0; y < to; y++)
    for (let x = 0; x < to; x++) {
      const at = y * to + x;
      for (const [p, q] of [
        [set.baseColour, out.baseColour],
        [set.emissive, out.emissive],
      ] as const)
        if (p && q) for (let c = 0; c < 3; c++) q.data[q.channels * at + c] = byte(linearToSrgb(mean(p, x, y, c, light)));
      for (const [p, q] of [
        [set.coat, out.coat],
        [set.clear, out.clear],
      ] as const)
        if (p && q) for (let c = 0; c < p.channels; c++) q.data[q.channels * at + c] = byte(mean(p, x, y, c, share));
      let variance = 0;
      if (set.normal && out.normal) {
        let [sx, sy, xx, yy] = [0, 0, 0, 0];
        const { data, channels } = set.normal;
        for (let j = 0; j < k; j++)
          for (let i = 0; i < k; i++) {
            const o = channels * ((y * k + j) * from + x * k + i);
            const z = Math.max(0.02, data[o + 2] / 127.5 - 1);
            const u = (data[o] / 127.5 - 1) / z;
            const v = (data[o + 1] / 127.5 - 1) / z;
            sx += u;
            sy += v;
            xx += u * u;
            yy += v * v;
          }
        const [mx, my] = [sx / n, sy / n];
        variance = Math.max(0, (xx / n - mx * mx + yy / n - my * my) / 2);
        const l = Math.sqrt(mx * mx + my * my + 1);
        const q = out.normal;
        for (const [c, v] of [mx / l, my / l, 1 / l].entries()) q.data[q.channels * at + c] = byte((v + 1) / 2);
      }
      const o = out.orm.channels * at;
      out.orm.data[o] = byte(mean(set.orm, x, y, 0, share));
      out.orm.data[o + 1] = byte(foldedRoughness(mean(set.orm, x, y, 1, alpha2), variance));
      out.orm.data[o + 2] = byte(mean(set.orm, x, y, 2, share));
    }
  return out;
}
