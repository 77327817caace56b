import { describe, expect, it } from 'vitest';
import { cube } from '../../test/shapes';
import { selfCrossings } from '../inspect/crossings';
import { placement } from '../maths/mat4';
import { random } from '../maths/random';
import { merge } from './merge';
import { boxTree, crossings, nearest } from './pairs';
import { subdivide } from './subdivide';
import { transform } from './transform';

describe('two meshes at once', () => {
  it('measures gaps between faces, edges and corners as geometry has them', () => {
    const a = boxTree(cube(10));
    const beside = (m: Parameters<typeof transform>[1]) => boxTree(transform(cube(10), m));
    expect(nearest(a, beside(placement([12.5, 0, 0], [0, 0, 0])))?.distance).toBeCloseTo(2.5, 12);
    // Corner against face: a cube standing on its corner, its space diagonal upright.
    const tip = (Math.atan(Math.SQRT2) * 180) / Math.PI;
    const onCorner = transform(transform(cube(10, [5, 0, 5]), placement([0, 0, 0], [0, 45, 0])), placement([0, 0, 0], [0, 0, tip]));
    const low = Math.min(...Array.from(onCorner.positions).filter((_, i) => i % 3 === 1));
    expect(nearest(a, boxTree(transform(onCorner, placement([0, 13 - low, 0], [0, 0, 0]))))?.distance).toBeCloseTo(3, 9);
    // Edge against edge, crosswise: a gap of 10√2 / 2 − 5 is taken off.
    const edge = transform(cube(10, [0, -5, 0]), placement([0, 0, 0], [0, 0, 45]));
    expect(nearest(a, boxTree(transform(edge, placement([0, 20 + 5 * Math.SQRT2, 0], [0, 0, 0]))))?.distance).toBeCloseTo(10, 9);
    expect(nearest(a, beside(placement([40, 0, 0], [0, 0, 0])), 5)).toBeNull();
  });
  it('agrees with trying every pair of triangles, for random turned cubes', () => {
    const next = random(21);
    for (let i = 0; i < 30; i++) {
      const a = subdivide(cube(10), { smooth: false });
      const b = transform(a, placement([24 * next() - 12, 24 * next() - 12, 24 * next() - 12], [360 * next(), 360 * next(), 0]));
      const [s, t] = [boxTree(a), boxTree(b)];
      const crossed = crossings(s, t, 1).length > 0;
      const near = nearest(s, t);
      expect(crossed).toBe(near?.distance === 0);
      let brute = Infinity;
      for (let x = 0; x < s.order.length; x++)
        for (let y = 0; y < t.order.length; y++) {
          const one = {
            ...s,
            boxes: s.boxes.slice(0, 6),
            first: Uint32Array.of(x),
            count: Uint32Array.of(1),
            order: Uint32Array.from(s.order, (_, k) => k),
          };
          const two = {
            ...t,
            boxes: t.boxes.slice(0, 6),
            first: Uint32Array.of(y),
            count: Uint32Array.of(1),
            order: Uint32Array.from(t.order, (_, k) => k),
          };
          brute = Math.min(brute, nearest(one, two)?.distance ?? Infinity);
          if (brute === 0) break;
        }
      expect(near?.distance).toBeCloseTo(brute, 12);
    }
  });
  it('finds a mesh that crosses itself, and not one that only touches', () => {
    expect(selfCrossings(cube(10))).toEqual([]);
    expect(selfCrossings(merge([cube(10), cube(10, [10, 0, 0])]))).toEqual([]);
    expect(selfCrossings(merge([cube(10), transform(cube(10, [4, 3, 2]), placement([0, 0, 0], [3, 5, 0]))])).length).toBeGreaterThan(0);
  });
});
