import { describe, expect, it } from 'vitest';
import { drum } from '../../test/textured';
import type { Pixels } from '../image/png';
import { seamDifference } from './seam-difference';

/** A drum of 24 sides, once round the tile: it is cut along one line of 100 mm. */
const mesh = drum(40, 100, 24, 1);
const picture = (at: (x: number, y: number) => number[]): Pixels => {
  const data = new Uint8Array(3 * 64 * 64);
  for (let y = 0; y < 64; y++) for (let x = 0; x < 64; x++) data.set(at(x, y), 3 * (y * 64 + x));
  return { width: 64, height: 64, channels: 3, depth: 8, data };
};

describe('how much a set differs across its seams', () => {
  it('is nothing for what is alike on both sides, along all of the seam', () => {
    const along = seamDifference(
      [{ mesh }],
      picture((_, y) => [3 * y, 0, 0]),
    );
    expect(along).toMatchObject({ mean: 0, worst: 0 });
    expect(along?.lengthMm).toBeCloseTo(100, 9);
  });
  it('is the difference of the channel that differs most; of a step in part of it its share', () => {
    const whole = seamDifference(
      [{ mesh }],
      picture((x) => (x < 32 ? [10, 20, 30] : [10, 60, 33])),
    );
    expect(whole).toMatchObject({ mean: 40, worst: 40, p95: 41 });
    // The lowest tenth of the seam: nineteen of twenty places are no better for it, the mean is.
    const part = seamDifference(
      [{ mesh }],
      picture((x, y) => (x < 32 && y < 6 ? [100, 0, 0] : [0, 0, 0])),
    );
    expect(part?.mean).toBeGreaterThan(8);
    expect(part?.mean).toBeLessThan(11);
    expect(part?.worst).toBe(100);
  });
  it('is none where two materials meet, where the surface turns, and without a seam', () => {
    const step = picture((x) => (x < 32 ? [0, 0, 0] : [90, 90, 90]));
    const ofFace = Uint8Array.from({ length: 24 }, (_, f) => (f < 12 ? 0 : 1));
    expect(seamDifference([{ mesh, ofFace }], step)).toBeNull();
    expect(seamDifference([{ mesh: drum(40, 100, 6, 1) }], step)).toBeNull();
    expect(seamDifference([], step)).toBeNull();
  });
});
