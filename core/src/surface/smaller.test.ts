import { describe, expect, it } from 'vitest';
import type { Pixels } from '../image/png';
import { linearToSrgb } from '../image/srgb';
import { random } from '../maths/random';
import { foldedRoughness, type SmallerSet, smallerSet } from './smaller';

const picture = (size: number, channels: 1 | 3, at: (i: number) => number[]): Pixels => ({
  width: size,
  height: size,
  channels,
  depth: 8,
  data: Uint8Array.from({ length: size * size }, (_, i) => i).reduce(
    (data, _, i) => {
      data.set(at(i), channels * i);
      return data;
    },
    new Uint8Array(channels * size * size),
  ),
});
const plain = (size: number): SmallerSet => ({
  baseColour: picture(size, 3, () => [120, 60, 30]),
  orm: picture(size, 3, () => [255, 128, 0]),
});
/** Two standard normal deviates (Box and Muller 1958). */
const gauss = (next: () => number): [number, number] => {
  const [r, a] = [Math.sqrt(-2 * Math.log(1 - next())), 2 * Math.PI * next()];
  return [r * Math.cos(a), r * Math.sin(a)];
};

describe('a set at a smaller size', () => {
  it('is as it was where it is even', () => {
    const set = {
      ...plain(16),
      normal: picture(16, 3, () => [128, 128, 255]),
      clear: picture(16, 1, () => [200]),
      coat: picture(16, 3, () => [90, 20, 0]),
    };
    const small = smallerSet(set, 4);
    for (const [key, p] of Object.entries(small) as [keyof SmallerSet, Pixels][]) {
      expect(p.width, key).toBe(4);
      for (let c = 0; c < p.channels; c++)
        expect(Math.abs(Number(p.data[p.channels * 5 + c]) - Number((set[key] as Pixels).data[c])), key).toBeLessThanOrEqual(1);
    }
  });
  it('light is averaged as light: of black and white half of the light, 188 of 255 (IEC 61966-2-1)', () => {
    const set = { ...plain(8), baseColour: picture(8, 3, (i) => ((i + (i >> 3)) % 2 ? [255, 255, 255] : [0, 0, 0])) };
    expect([...smallerSet(set, 2).baseColour.data.slice(0, 3)]).toEqual([188, 188, 188]);
    expect(Math.round(255 * linearToSrgb(0.5))).toBe(188);
  });
  it('what leans to either side goes into the roughness: its facets spread as those near by do, by a million of them drawn (Beckmann)', () => {
    const [size, sigma, r] = [64, 0.12, 0.3];
    const next = random(5);
    const slopes = Array.from({ length: size * size }, () => gauss(next).map((g) => sigma * g));
    const normal = picture(size, 3, (i) => {
      const [u, v] = slopes[i];
      const l = Math.hypot(u, v, 1);
      return [u / l, v / l, 1 / l].map((x) => Math.round(127.5 * (x + 1)));
    });
    const orm = picture(size, 3, () => [255, Math.round(255 * r), 0]);
    const small = smallerSet({ ...plain(size), orm, normal }, 1);
    const got = small.orm.data[1] / 255;
    // Beckmann's facets have slopes that are normally spread, α²/2 along either axis; on a bumpy ground they stand on its own slopes.
    const alpha = r * r;
    let sum = 0;
    const draws = 1_000_000;
    for (let i = 0; i < draws; i++) {
      const [gu, gv] = gauss(next);
      const [su, sv] = slopes[i % slopes.length];
      const [u, v] = [su + (alpha / Math.SQRT2) * gu, sv + (alpha / Math.SQRT2) * gv];
      sum += u * u + v * v;
    }
    const traced = Math.sqrt(sum / draws);
    expect((got * got) / traced).toBeGreaterThan(0.98);
    expect((got * got) / traced).toBeLessThan(1.02);
    expect(foldedRoughness(alpha * alpha, 0)).toBeCloseTo(r, 12);
    expect(got).toBeGreaterThan(1.25 * r);
  });
  it('a slope that all of a block has stays a slope', () => {
    const [u, v] = [0.3, -0.15];
    const l = Math.hypot(u, v, 1);
    const lean = [u / l, v / l, 1 / l].map((x) => Math.round(127.5 * (x + 1)));
    const small = smallerSet({ ...plain(16), normal: picture(16, 3, () => lean) }, 4);
    const n = (small.normal as Pixels).data;
    for (let c = 0; c < 3; c++) expect(Math.abs(n[c] - lean[c])).toBeLessThanOrEqual(1);
    expect(small.orm.data[1]).toBe(128);
  });
});
