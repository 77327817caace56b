import { describe, expect, it } from 'vitest';
import { cube, sheet } from '../../test/shapes';
import { IDENTITY } from '../maths/mat4';
import { random } from '../maths/random';
import { attribute, triangleCount, withAttribute } from '../mesh/polymesh';
import { unwrap } from '../pipeline/unwrap';
import { placeAtTile } from './at-tile';

describe('a place of the tile', () => {
  const box = unwrap([{ id: 'p', name: 'p', mesh: cube(20), placements: [IDENTITY] }], {
    size: 256,
    padding: 8,
    seamAngle: 50,
    rotate: true,
    weights: {},
    regions: {},
  }).parts[0].mesh;
  const uv = attribute(box, 'uv')?.data as Float64Array;
  const island = attribute(box, 'island')?.data as Int32Array;

  it('is where its texel lies on the surface', () => {
    const next = random(3);
    for (let n = 0; n < 200; n++) {
      const t = Math.floor(next() * triangleCount(box));
      let [a, b] = [next(), next()];
      if (a + b > 1) [a, b] = [1 - a, 1 - b];
      const w = [1 - a - b, a, b];
      const mix = (of: ArrayLike<number>, each: number, at: (k: number) => number, axis: number) =>
        w.reduce((s, x, k) => s + x * of[each * at(k) + axis], 0);
      const corner = (k: number) => box.triangles[3 * t + k];
      const found = placeAtTile(box, [mix(uv, 2, corner, 0), mix(uv, 2, corner, 1)]);
      const vertex = (k: number) => box.faceVert[corner(k)];
      expect(found?.face).toBe(box.triangleFace[t]);
      for (const axis of [0, 1, 2]) expect(found?.point[axis]).toBeCloseTo(mix(box.positions, 3, vertex, axis), 4);
    }
  });
  it('beside an island is the nearest on its border; of another island only where that is asked', () => {
    const flat = sheet(2, 10, () => 0);
    const half = withAttribute(flat, {
      name: 'uv',
      domain: 'corner',
      size: 2,
      data: Float64Array.from(attribute(flat, 'uv')?.data ?? [], (x) => 0.25 + 0.5 * x),
    });
    const at = placeAtTile(half, [0.5, 0.9])?.point ?? [9, 9, 9];
    expect(Math.abs(at[0])).toBeCloseTo(0, 9);
    expect(Math.abs(at[2])).toBeCloseTo(5, 9);
    for (const wanted of new Set(island)) expect(island[placeAtTile(box, [0.5, 0.5], wanted)?.face ?? -1]).toBe(wanted);
    expect(placeAtTile(cube(5), [0.5, 0.5])).toBeNull();
  });
});
