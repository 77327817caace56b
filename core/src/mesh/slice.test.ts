import { describe, expect, it } from 'vitest';
import { cube } from '../../test/shapes';
import { random } from '../maths/random';
import { normalise, type Vec3 } from '../maths/vec3';
import { areaOf, eulerCharacteristic, isWatertight, volumeOf } from './measures';
import { faceCount, makeMesh } from './polymesh';
import { cut, slice } from './slice';

describe('slicing', () => {
  it('divides a concave face into as many pieces as the plane makes of it', () => {
    // A comb of three teeth, cut across them: three tips and one back.
    const comb = [0, 0, 50, 0, 50, 30, 40, 30, 40, 10, 30, 10, 30, 30, 20, 30, 20, 10, 10, 10, 10, 30, 0, 30];
    const positions = comb.flatMap((x, i) => (i % 2 === 0 ? [x, comb[i + 1], 0] : []));
    const m = makeMesh({ positions, faceStart: [0, 12], faceVert: Array.from({ length: 12 }, (_, i) => i) });
    const { mesh, side } = slice(m, { normal: [0, 1, 0], offset: 20 });
    expect(faceCount(mesh)).toBe(4);
    expect([...side].sort()).toEqual([-1, 1, 1, 1]);
    expect(areaOf(mesh)).toBeCloseTo(areaOf(m), 9);
  });
  it('goes through vertices without dividing what it only touches', () => {
    const { mesh } = slice(cube(10), { normal: [0, 1, 0], offset: 10 });
    expect(faceCount(mesh)).toBe(6);
    const diagonal = slice(cube(10, [0, -5, 0]), { normal: normalise([1, 0, 1]), offset: 0 });
    expect(faceCount(diagonal.mesh)).toBe(8);
    expect(eulerCharacteristic(diagonal.mesh)).toBe(2);
  });
  it('leaves two closed halves whose volumes add up, for random planes through random boxes', () => {
    const next = random(11);
    for (let i = 0; i < 60; i++) {
      const m = cube(10 + 30 * next());
      const normal = normalise([next() - 0.5, next() - 0.5, next() - 0.5] as Vec3);
      const plane = { normal, offset: 5 * normal[1] + (next() - 0.5) * 4 };
      const halves = (['above', 'below'] as const).map((keep) => cut(m, plane, { keep, cap: 'cap' }));
      for (const h of halves) expect(isWatertight(h)).toBe(true);
      expect(volumeOf(halves[0]) + volumeOf(halves[1])).toBeCloseTo(volumeOf(m), 6);
    }
  });
});
