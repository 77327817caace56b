import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { asJpeg, labOf } from './jpeg-loss';
import type { Pixels } from './png';

const picture = (size = 96): Pixels => {
  let x = 7;
  const data = Uint8Array.from({ length: 3 * size * size }, (_, i) => {
    x = (Math.imul(x, 1664525) + 1013904223) >>> 0;
    const px = Math.floor(i / 3);
    return Math.min(255, Math.max(0, 128 + 90 * Math.sin(px / 17 + (i % 3)) + (x >>> 27)));
  });
  return { width: size, height: size, channels: 3, depth: 8, data };
};

describe('a picture as JPEG', () => {
  it('has lost what another reader finds it lost (libjpeg of sharp)', async () => {
    const p = picture();
    for (const quality of [60, 85, 97]) {
      const made = asJpeg(p, quality);
      const read = await sharp(made.bytes).raw().toBuffer();
      let [sum, largest] = [0, 0];
      for (let i = 0; i < read.length; i++) {
        const d = Math.abs(read[i] - p.data[i]);
        sum += d;
        largest = Math.max(largest, d);
      }
      // Readers may round an inverse cosine transform one level apart, and spread chroma otherwise.
      expect(Math.abs(sum / read.length - made.mean)).toBeLessThan(0.6);
      expect(Math.abs(largest - made.largest)).toBeLessThan(8);
    }
  });

  it('loses less and is larger the better its quality; an even colour loses no more than rounding', () => {
    const list = [50, 75, 90, 98].map((q) => asJpeg(picture(), q));
    for (let i = 1; i < list.length; i++) {
      expect(list[i].mean).toBeLessThan(list[i - 1].mean);
      expect(list[i].seen).toBeLessThanOrEqual(list[i - 1].seen);
      expect(list[i].bytes.length).toBeGreaterThan(list[i - 1].bytes.length);
    }
    const even = asJpeg({ width: 32, height: 32, channels: 3, depth: 8, data: new Uint8Array(3 * 1024).fill(120) }, 90);
    expect([even.largest <= 1, even.seen]).toEqual([true, 0]);
  });

  it.each([
    // Lindbloom’s calculator’s values for sRGB under D65, from memory.
    [255, 255, 255, 100, 0, 0],
    [255, 0, 0, 53.24, 80.09, 67.2],
    [0, 255, 0, 87.73, -86.18, 83.18],
    [0, 0, 255, 32.3, 79.19, -107.86],
    [0, 0, 0, 0, 0, 0],
  ])('sees (%i, %i, %i) as L*a*b* does', (r, g, b, l, a, bb) => {
    for (const [i, x] of labOf(r, g, b).entries()) expect(x).toBeCloseTo([l, a, bb][i], 1);
  });
});
