import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { random } from '../maths/random';
import { balancedCount, balancedError, balancedScale, circumscribedError, inscribedCount, inscribedError } from './budget/chord';
import { arcByBulge, arcByTangent, curveLength, fillet, largestFillet, line, pointAt, tangentAt, turnBetween } from './curves';

describe('chords', () => {
  // From the definition of the sagitta: s = r(1 − cos(π/n)).
  it('a section of four sides is 29 % off its radius (1 − cos 45°)', () => {
    expect(inscribedError(1, 4)).toBeCloseTo(0.2929, 4);
  });
  it('balanced errors are the same inside and outside, and half the inscribed one in the limit', () => {
    for (const n of [4, 8, 12, 32, 60]) {
      const k = balancedScale(n);
      expect(k - 1).toBeCloseTo(balancedError(1, n), 12);
      expect(1 - k * Math.cos(Math.PI / n)).toBeCloseTo(balancedError(1, n), 12);
      expect(circumscribedError(1, n)).toBeGreaterThan(inscribedError(1, n));
    }
    expect(inscribedError(1, 200) / balancedError(1, 200)).toBeCloseTo(2, 3);
  });
  it('give the smallest count that keeps within the error, to the side', () => {
    const next = random(11);
    for (let i = 0; i < 2000; i++) {
      const r = 0.1 + 200 * next();
      const e = r * 10 ** (-1 - 4 * next());
      const n = inscribedCount(r, e);
      expect(inscribedError(r, n)).toBeLessThanOrEqual(e * (1 + 1e-9));
      if (n > 3) expect(inscribedError(r, n - 1)).toBeGreaterThan(e);
      const b = balancedCount(r, e);
      expect(balancedError(r, b)).toBeLessThanOrEqual(e * (1 + 1e-9));
      if (b > 3) expect(balancedError(r, b - 1)).toBeGreaterThan(e);
    }
  });
  it('find again the count an error came from (where the acos form loses a side)', () => {
    for (let n = 3; n < 2000; n++) expect(inscribedCount(50, inscribedError(50, n))).toBe(n);
  });
});

describe('curves', () => {
  it('an arc by its bulge is the circle through both ends and the middle', () => {
    const c = arcByBulge([0, 0], [0, 10], 2);
    if (c.kind !== 'arc') throw new Error('not an arc');
    // Sagitta relation r = c²/8s + s/2.
    expect(c.radius).toBeCloseTo(100 / 16 + 1, 12);
    expect(pointAt(c, 0.5)[0]).toBeCloseTo(2, 12);
    expect(pointAt(c, 0.5)[1]).toBeCloseTo(5, 12);
  });
  it('a tangent arc leaves in the given direction', () => {
    const c = arcByTangent([0, 0], [10, 10], [1, 0]);
    expect(tangentAt(c, 0)[0]).toBeCloseTo(1, 12);
    expect(curveLength(c)).toBeCloseTo((Math.PI / 2) * 10, 9);
  });
  it('a fillet between any two curves touches both without a corner', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.3, max: 2.8, noNaN: true }),
        fc.double({ min: -3, max: 3, noNaN: true }),
        fc.double({ min: -3, max: 3, noNaN: true }),
        (angle, b1, b2) => {
          const p = arcByBulge([0, 0], [10, 0], b1);
          const q = arcByBulge([10, 0], [10 + 10 * Math.cos(angle), 10 * Math.sin(angle)], b2);
          if (Math.abs(turnBetween(p, q)) < 0.05) return;
          const most = largestFillet(p, q);
          const made = fillet(p, q, most * 0.5);
          if (!made) return;
          expect(Math.abs(turnBetween(made[0], made[1]))).toBeLessThan(1e-6);
          expect(Math.abs(turnBetween(made[1], made[2]))).toBeLessThan(1e-6);
        },
      ),
      { numRuns: 200 },
    );
  });
  it('rounds a square corner up to its sides and no farther', () => {
    expect(largestFillet(line([0, 0], [10, 0]), line([10, 0], [10, 6]))).toBeCloseTo(6, 6);
  });
});
