import { describe, expect, it } from 'vitest';
import { random } from '../maths/random';
import { fillTriangle } from './raster';

describe('triangles as pixels', () => {
  it('weights are positive, add up to one, and bring back the pixel’s own centre', () => {
    const next = random(1);
    for (let i = 0; i < 200; i++) {
      const p = Array.from({ length: 6 }, () => 40 * next());
      fillTriangle(p[0], p[1], p[2], p[3], p[4], p[5], 40, 40, (x, y, a, b, c) => {
        expect(a + b + c).toBeCloseTo(1, 9);
        expect(Math.min(a, b, c)).toBeGreaterThanOrEqual(0);
        expect(a * p[0] + b * p[2] + c * p[4]).toBeCloseTo(x + 0.5, 6);
        expect(a * p[1] + b * p[3] + c * p[5]).toBeCloseTo(y + 0.5, 6);
      });
    }
  });
  it('number as many as the area says, in the mean of many random ones', () => {
    const next = random(2);
    let [pixels, area] = [0, 0];
    for (let i = 0; i < 3000; i++) {
      const p = Array.from({ length: 6 }, () => 5 + 50 * next());
      area += Math.abs((p[2] - p[0]) * (p[5] - p[1]) - (p[4] - p[0]) * (p[3] - p[1])) / 2;
      fillTriangle(p[0], p[1], p[2], p[3], p[4], p[5], 64, 64, () => pixels++);
    }
    expect(pixels / area).toBeCloseTo(1, 2);
  });
  it('the same pixels whichever way round, and whichever corner comes first', () => {
    const next = random(3);
    for (let i = 0; i < 100; i++) {
      const p = Array.from({ length: 6 }, () => Math.round(32 * next()) / 2);
      const seen = (order: number[]) => {
        const out: number[] = [];
        const q = order.flatMap((k) => [p[2 * k], p[2 * k + 1]]);
        fillTriangle(q[0], q[1], q[2], q[3], q[4], q[5], 20, 20, (x, y) => out.push(20 * y + x));
        return out;
      };
      for (const order of [
        [1, 2, 0],
        [2, 0, 1],
        [0, 2, 1],
      ])
        expect(seen(order)).toEqual(seen([0, 1, 2]));
    }
  });
  it('bands of rows put together are the whole', () => {
    const p = [3, 2, 60, 20, 20, 61];
    const rows = (from: number, to: number) => {
      const out: number[] = [];
      fillTriangle(p[0], p[1], p[2], p[3], p[4], p[5], 64, to, (x, y) => out.push(64 * y + x), from);
      return out;
    };
    expect([0, 16, 32, 48].flatMap((from) => rows(from, from + 16))).toEqual(rows(0, 64));
  });
  it('nothing for a triangle without area or outside the picture', () => {
    let n = 0;
    fillTriangle(1, 1, 5, 5, 9, 9, 20, 20, () => n++);
    fillTriangle(-9, -9, -2, -9, -9, -2, 20, 20, () => n++);
    expect(n).toBe(0);
  });
});
