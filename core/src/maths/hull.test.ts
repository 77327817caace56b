import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { convexHull } from './hull';

type Point = [number, number];
const turn = (o: Point, a: Point, b: Point) => (a[0] - o[0]) * (b[1] - o[1]) - (a[1] - o[1]) * (b[0] - o[0]);
// Whole numbers: every turn is exact.
const points = fc.array(fc.tuple(fc.integer({ min: -9, max: 9 }), fc.integer({ min: -9, max: 9 })), { minLength: 1, maxLength: 40 });

describe('the convex hull', () => {
  it('turns left at every corner, is made of the points, and holds them all', () => {
    fc.assert(
      fc.property(points, (given) => {
        const hull = convexHull(given);
        for (const h of hull) expect(given).toContainEqual(h);
        if (hull.length < 3) return;
        hull.forEach((h, i) => {
          const [next, after] = [hull[(i + 1) % hull.length], hull[(i + 2) % hull.length]];
          expect(turn(h, next, after)).toBeGreaterThan(0);
          for (const p of given) expect(turn(h, next, p)).toBeGreaterThanOrEqual(0);
        });
      }),
    );
  });
  it('of a square with points inside and on its sides is its corners', () => {
    const square: Point[] = [[0, 0], [2, 0], [2, 2], [0, 2]]; // biome-ignore format: a square reads as one
    expect(convexHull([...square, [1, 1], [1, 0], [2, 1]]).sort()).toEqual([...square].sort());
  });
  it('of points on a line is its ends, of one place that place, of none the origin', () => {
    expect(convexHull([[0, 0], [1, 1], [3, 3]])).toEqual([[0, 0], [3, 3]]); // biome-ignore format: short
    expect(convexHull([[4, 5], [4, 5]])).toEqual([[4, 5]]); // biome-ignore format: short
    expect(convexHull([])).toEqual([[0, 0]]);
  });
});
