import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Bounds } from './measures';
import { nearPairs } from './near-boxes';

const anyBox = fc
  .tuple(...Array.from({ length: 6 }, () => fc.double({ min: 0, max: 60, noNaN: true })))
  .map(([x, y, z, a, b, c]): Bounds => ({ min: [x, y, z], max: [x + a / 6, y + b / 6, z + c / 6] }));

describe('pairs of boxes that are near', () => {
  it('are those that trying every pair finds, for any boxes and any reach', () => {
    fc.assert(
      fc.property(fc.array(anyBox, { maxLength: 40 }), fc.double({ min: 0, max: 20, noNaN: true }), (boxes, reach) => {
        const all: [number, number][] = [];
        for (let i = 0; i < boxes.length; i++)
          for (let j = i + 1; j < boxes.length; j++)
            if ([0, 1, 2].every((k) => boxes[i].min[k] - reach <= boxes[j].max[k] && boxes[j].min[k] - reach <= boxes[i].max[k]))
              all.push([i, j]);
        expect(nearPairs(boxes, reach)).toEqual(all);
      }),
      { numRuns: 300 },
    );
  });
  it('leave out boxes of nothing, and take those that touch', () => {
    const box = (x: number): Bounds => ({ min: [x, 0, 0], max: [x + 1, 1, 1] });
    const nothing: Bounds = { min: [Infinity, Infinity, Infinity], max: [-Infinity, -Infinity, -Infinity] };
    expect(nearPairs([box(0), nothing, box(1), box(2.5)], 0)).toEqual([[0, 2]]);
    expect(nearPairs([], 5)).toEqual([]);
  });
});
