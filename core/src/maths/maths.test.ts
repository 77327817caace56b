import { Matrix4, Quaternion, Vector3 } from 'three';
import { describe, expect, it } from 'vitest';
import {
  compose,
  inverse,
  isIdentity,
  isRigid,
  multiply,
  normalMatrix,
  placement,
  rotation,
  scaling,
  transformPoint,
  translation,
} from './mat4';
import { hash32, random, sobol2 } from './random';
import { dot, length, perpendicular } from './vec3';

describe('matrices', () => {
  it('agree with three’s on a nested turn, size and mirror', () => {
    const q = new Quaternion().setFromAxisAngle(new Vector3(1, 2, 3).normalize(), 0.8);
    const parent = compose([1, 2, 3], q.toArray(), [2, 0.5, 1]);
    const child = compose([-4, 5, 6], q.toArray(), [-1, 1, 3]);
    const three = new Matrix4()
      .compose(new Vector3(1, 2, 3), q, new Vector3(2, 0.5, 1))
      .multiply(new Matrix4().compose(new Vector3(-4, 5, 6), q, new Vector3(-1, 1, 3)));
    multiply(parent, child).forEach((x, i) => expect(x).toBeCloseTo(three.elements[i], 12));
    inverse(multiply(parent, child)).forEach((x, i) => expect(x).toBeCloseTo(three.clone().invert().elements[i], 12));
  });
  it('know what only turns and moves', () => {
    expect(isRigid(placement([1, 2, 3], [10, 20, 30]))).toBe(true);
    expect(isRigid(scaling([1, 1, 1.01]))).toBe(false);
    expect(isRigid(scaling([-1, 1, 1]))).toBe(false);
    expect(isIdentity(multiply(translation([1, 2, 3]), translation([-1, -2, -3])))).toBe(true);
  });
  it('carry a normal so that it stays at right angles to its surface', () => {
    const m = multiply(rotation([0, 1, 0], 0.4), scaling([1, 3, 0.5]));
    const n = normalMatrix(m);
    const along = transformPoint(m, [1, -1, 0]);
    const normal = transformPoint(n, [1, 1, 0]);
    expect(dot(along, normal)).toBeCloseTo(0, 12);
  });
  it('find a right angle to anything', () => {
    for (const v of [
      [1, 0, 0],
      [0, 1, 0],
      [0, 0, 1],
      [0.6, 0.8, 0],
    ] as const) {
      expect(dot(perpendicular(v), v)).toBeCloseTo(0, 12);
      expect(length(perpendicular(v))).toBeCloseTo(1, 12);
    }
  });
});

describe('randomness', () => {
  it('is the same for the same seed and looks uniform', () => {
    const [a, b] = [random(1), random(1)];
    let sum = 0;
    for (let i = 0; i < 20_000; i++) {
      const x = a();
      expect(x).toBe(b());
      sum += x;
    }
    expect(sum / 20_000).toBeCloseTo(0.5, 1);
    expect(new Set(Array.from({ length: 1000 }, (_, i) => hash32(i))).size).toBe(1000);
  });
  it('Sobol points are a (0, m, 2)-net: each elementary box of 2⁻⁴ holds one of 16 (Sobol 1967; Owen 1995 for scrambling)', () => {
    const p = new Float64Array(2);
    for (const seed of [1, 77, 0xdeadbeef])
      for (let k = 0; k <= 4; k++) {
        const [w, h] = [2 ** k, 2 ** (4 - k)];
        const seen = new Set<number>();
        for (let i = 0; i < 16; i++) {
          sobol2(i, seed, p);
          expect(p[0]).toBeLessThan(1);
          seen.add(Math.floor(p[0] * w) * h + Math.floor(p[1] * h));
        }
        expect(seen.size).toBe(16);
      }
  });
});
