import { describe, expect, it } from 'vitest';
import { doubleArea } from '../mesh/planar';
import { type Loop, largestLoop, offsetLoop, withoutShort } from './outline';

const regular = (n: number, r: number): Loop =>
  Array.from({ length: n }, (_, i) => [r * Math.cos((2 * Math.PI * i) / n), r * Math.sin((2 * Math.PI * i) / n)]);
const box = (w: number, h: number): Loop => [
  [0, 0],
  [w, 0],
  [w, h],
  [0, h],
];

describe('outlines', () => {
  it('move out by a distance: Steiner’s A + P d + d² Σ tan(θ / 2) for a convex polygon', () => {
    for (const n of [3, 4, 5, 8, 30])
      for (const d of [-0.4, 0.3, 2]) {
        const loop = regular(n, 10);
        const area = doubleArea(loop) / 2;
        const perimeter = 2 * n * 10 * Math.sin(Math.PI / n);
        const moved = offsetLoop(loop, () => d, 'It');
        expect(doubleArea(moved) / 2).toBeCloseTo(area + perimeter * d + d * d * n * Math.tan(Math.PI / n), 9);
      }
  });
  it('move by another distance along each axis', () => {
    const moved = offsetLoop(box(100, 60), (n) => -(Math.abs(n[0]) * 2 + Math.abs(n[1]) * 0.5), 'It');
    expect(doubleArea(moved) / 2).toBeCloseTo(96 * 59, 9);
    expect(() => offsetLoop(box(100, 60), () => -40, 'A clearance of 40\u00a0mm')).toThrow(
      /A clearance of 40\u00a0mm leaves a side of 100\u00a0mm|of 60\u00a0mm no length/,
    );
  });
  it('lose bevelled corners that what fits inside doesn’t have', () => {
    const bevelled: Loop = [
      [1, 0],
      [49, 0],
      [50, 1],
      [50, 29],
      [49, 30],
      [1, 30],
      [0, 29],
      [0, 1],
    ];
    const plain = withoutShort(bevelled, 5);
    expect(plain).toHaveLength(4);
    expect(doubleArea(plain) / 2).toBeCloseTo(1500, 9);
    expect(withoutShort(bevelled, 0.2)).toHaveLength(8);
    // A round corner of a radius larger than the way in stays round.
    expect(withoutShort(regular(40, 20), 6)).toHaveLength(40);
  });
  it('the largest of each sense is found', () => {
    const hole = [...regular(6, 4)].reverse();
    expect(largestLoop([regular(5, 3), box(20, 20), hole, [...regular(4, 1)].reverse()], 1)).toEqual(box(20, 20));
    expect(largestLoop([box(20, 20), hole], -1)).toBe(hole);
    expect(largestLoop([hole], 1)).toBeNull();
  });
});
