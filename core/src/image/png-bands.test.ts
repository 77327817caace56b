import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { decodePng, encodePng, type Pixels } from './png';
import { PngPacker } from './png-bands';

const noisy = (width: number, height: number, channels: Pixels['channels'], seed = 1): Pixels => {
  let x = seed;
  const data = Uint8Array.from({ length: width * height * channels }, (_, i) => {
    x = (Math.imul(x, 1664525) + 1013904223) >>> 0;
    return (i >> 5) % 3 === 0 ? x >>> 24 : (i / width) & 255;
  });
  return { width, height, channels, depth: 8, data };
};

describe('a picture packed by bands', () => {
  it.each([
    [200, 130, 3],
    [64, 64, 1],
    [33, 65, 4],
    [7, 1, 2],
    [1, 129, 3],
  ] as const)('%i × %i of %i channels is read by two other readers as what it was (libspng of sharp; fast-png)', async (w, h, channels) => {
    const p = noisy(w, h, channels);
    const png = new PngPacker().pack(p);
    expect(Buffer.compare(Buffer.from(decodePng(png).data), Buffer.from(p.data as Uint8Array))).toBe(0);
    const read = await sharp(png).raw().toBuffer({ resolveWithObject: true });
    expect([read.info.width, read.info.height]).toEqual([w, h]);
    if (channels >= 3) expect(read.data.equals(Buffer.from(p.data as Uint8Array))).toBe(true);
  });

  it('comes to the same bytes whatever was packed before', () => {
    const [one, two] = [noisy(120, 300, 3, 1), noisy(120, 300, 3, 2)];
    const changed: Pixels = { ...one, data: one.data.slice() };
    for (let i = 70 * 360; i < 80 * 360; i++) changed.data[i] = 9;
    const packer = new PngPacker();
    for (const p of [one, changed, two, { ...one, data: one.data.slice() }, noisy(60, 300, 3)])
      expect(Buffer.compare(Buffer.from(packer.pack(p)), Buffer.from(new PngPacker().pack(p)))).toBe(0);
  });

  it('is hardly larger than packed as one', () => {
    const p = noisy(512, 512, 3);
    expect(new PngPacker().pack(p).length / encodePng(p).length).toBeLessThan(1.03);
  });

  it('refuses what is not of 8 bits', () => {
    expect(() => new PngPacker().pack({ width: 1, height: 1, channels: 1, depth: 16, data: new Uint16Array(1) })).toThrow(/8 bits/);
  });
});
