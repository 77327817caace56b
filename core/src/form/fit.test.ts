import { describe, expect, it } from 'vitest';
import { stepOf } from '../../test/recipes';
import { cube } from '../../test/shapes';
import { IDENTITY, placement, transformDirection, transformPoint } from '../maths/mat4';
import { dot, sub, type Vec3 } from '../maths/vec3';
import { faceNormals } from '../mesh/normals';
import { faceCount, type PolyMesh } from '../mesh/polymesh';
import { fitted, pickedFace } from './fit';
import { form } from './recipe';
import { centreOf } from './regions';
import type { Step } from './steps';

/** A face that looks a way. */
function facing(mesh: PolyMesh, way: Vec3): number {
  const n = faceNormals(mesh);
  let best = 0;
  for (let f = 0; f < faceCount(mesh); f++)
    if (dot([n[3 * f], n[3 * f + 1], n[3 * f + 2]], way) > dot([n[3 * best], n[3 * best + 1], n[3 * best + 2]], way)) best = f;
  return best;
}
const pick = (mesh: PolyMesh, way: Vec3, place = IDENTITY) => {
  const f = facing(mesh, way);
  return pickedFace(mesh, f, centreOf(mesh, f), place);
};
const expectAt = (a: Vec3, b: Vec3, digits = 6) => {
  for (const k of [0, 1, 2]) expect(a[k]).toBeCloseTo(b[k], digits);
};
const pin = form(
  [
    stepOf('bar', {
      id: 'b',
      radius: 5,
      path: [
        { id: 'a', x: 0, y: 0, z: 0 },
        { id: 'c', x: 0, y: 40, z: 0 },
      ],
    }) as Step,
  ],
  { mesh: 'low', count: () => 32 },
).mesh as PolyMesh;

describe('a face set against another', () => {
  const there = placement([100, 20, -30], [20, 40, 10]);
  it('face to face: middles over each other, looking at each other, as far apart as asked for', () => {
    const own = pick(cube(10), [0, -1, 0]);
    const other = pick(cube(30), [1, 0, 0], there);
    for (const offset of [0, 2.5]) {
      const by = fitted(own, other, 'face to face', offset);
      expectAt(transformDirection(by, own.normal), other.normal.map((x) => -x) as unknown as Vec3);
      const off = sub(transformPoint(by, own.middle), other.middle);
      expectAt(off, other.normal.map((x) => x * offset) as unknown as Vec3);
    }
  });
  it('centred: over the middle of the other, as high over it as before, and not turned', () => {
    const own = pick(cube(10), [0, -1, 0], placement([3, 60, 4], [0, 30, 0]));
    const other = pick(cube(30), [0, 1, 0], placement([50, 7, -8], [0, 0, 0]));
    const by = fitted(own, other, 'centred', 0);
    const moved = transformPoint(by, own.middle);
    expectAt([moved[0], 0, moved[2]], [other.middle[0], 0, other.middle[2]]);
    expect(moved[1]).toBeCloseTo(own.middle[1], 9);
    expectAt(transformDirection(by, [0.36, 0.48, 0.8]), [0.36, 0.48, 0.8]);
    expect(transformPoint(fitted(own, other, 'centred', 2.5), own.middle)[1]).toBeCloseTo(own.middle[1] + 2.5, 9);
  });
  it('flush: in one plane, and nothing moves along it', () => {
    const own = pick(cube(10), [0, 1, 0], placement([3, 0, 4], [0, 0, 0]));
    const other = pick(cube(30), [0, 1, 0], placement([50, 7, 0], [0, 0, 0]));
    const by = fitted(own, other, 'flush', 0);
    const moved = transformPoint(by, own.middle);
    expect(moved[1]).toBeCloseTo(other.middle[1], 9);
    expect([moved[0], moved[2]]).toEqual([own.middle[0], own.middle[2]]);
  });
  it('concentric: one axis, found on a low mesh to a hair; nothing moves along it', () => {
    const own = pick(pin, [1, 0, 0]);
    expect(own.axis?.radius).toBeCloseTo(5, 1);
    expect(Math.abs(own.axis?.along[1] ?? 0)).toBeCloseTo(1, 9);
    expectAt([own.axis?.through[0] ?? 9, 0, own.axis?.through[2] ?? 9], [0, 0, 0]);
    const other = pick(pin, [0, 0, 1], there);
    const by = fitted(own, other, 'concentric', 0);
    const [a, b] = [transformPoint(by, [0, 0, 0]), transformPoint(by, [0, 40, 0])];
    for (const p of [a, b]) {
      const off = sub(p, other.axis?.through as Vec3);
      const along = other.axis?.along as Vec3;
      expect(Math.hypot(...sub(off, along.map((x) => x * dot(off, along)) as unknown as Vec3))).toBeLessThan(1e-6);
    }
  });
  it('a flat has no axis, and says so', () => {
    const own = pick(cube(10), [0, 1, 0]);
    expect(own.axis).toBeNull();
    expect(() => fitted(own, pick(pin, [1, 0, 0]), 'concentric', 0)).toThrow('The first face that was picked is not round');
  });
});
