import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { random } from './random';
import { deviation, fitLine, mean, median, nextPoint, quantile, studentQuantile, studentShare } from './statistics';

describe('quantiles', () => {
  it('follow definition 7 of Hyndman & Fan (1996): h = (n − 1)p + 1', () => {
    const x = [7, 15, 36, 39, 40, 41];
    expect(median(x)).toBe(37.5);
    expect(quantile(x, 0.25)).toBe(20.25);
    expect(quantile(x, 0.75)).toBe(39.75 + 0);
    expect(quantile([3], 0.9)).toBe(3);
    expect(quantile([], 0.5)).toBeNaN();
  });
  it('lie between the least and the most, in order, whatever comes first', () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: -1e6, max: 1e6, noNaN: true }), { minLength: 1, maxLength: 40 }), (x) => {
        const q = [0, 0.1, 0.5, 0.9, 1].map((p) => quantile(x, p));
        for (let i = 1; i < q.length; i++) expect(q[i]).toBeGreaterThanOrEqual(q[i - 1]);
        expect(q[0]).toBe(Math.min(...x));
        expect(q[4]).toBe(Math.max(...x));
        expect(quantile([...x].reverse(), 0.3)).toBe(quantile(x, 0.3));
      }),
    );
  });
});

describe('Student’s t', () => {
  // NIST/SEMATECH e-Handbook of Statistical Methods, 1.3.6.7.2, critical values of Student’s t; typed from memory.
  it.each([
    [0.9, 1, 3.078],
    [0.95, 1, 6.314],
    [0.975, 1, 12.706],
    [0.9, 4, 1.533],
    [0.95, 5, 2.015],
    [0.975, 10, 2.228],
    [0.99, 20, 2.528],
    [0.975, 30, 2.042],
    [0.95, 100, 1.66],
    [0.999, 9, 4.297],
  ])('below which a share of %d lies, %d degrees of freedom: %d', (p, degrees, t) => {
    expect(studentQuantile(p, degrees)).toBeCloseTo(t, 3 - Math.ceil(Math.log10(t)));
    expect(studentShare(studentQuantile(p, degrees), degrees)).toBeCloseTo(p, 10);
    expect(studentQuantile(1 - p, degrees)).toBeCloseTo(-studentQuantile(p, degrees), 9);
  });
  it('of one degree is Cauchy’s: 1/2 + arctan(t)/π', () => {
    for (const t of [-5, -0.3, 0, 0.7, 12]) expect(studentShare(t, 1)).toBeCloseTo(0.5 + Math.atan(t) / Math.PI, 12);
  });
});

describe('least squares', () => {
  // NIST Statistical Reference Datasets, “Norris” (linear regression): data and certified values, typed from memory. Were a point of it
  // wrong, none of the certified figures could come out to ten digits.
  const NORRIS =
    `0.1 0.2 338.8 337.4 118.1 118.2 888.0 884.6 9.2 10.1 228.1 226.5 668.5 666.3 998.5 996.3 449.1 448.6 778.9 777.0 559.2 558.2
    0.3 0.4 0.1 0.6 778.1 775.5 668.8 666.9 339.3 338.0 448.9 447.5 10.8 11.6 557.7 556.0 228.3 228.1 998.0 995.8 888.8 887.6 119.6 120.2
    0.3 0.3 0.6 0.3 557.6 556.8 339.3 339.1 888.0 887.2 998.5 999.0 778.9 779.0 10.2 11.1 117.6 118.3 228.9 229.2 668.4 669.1 449.2 448.9
    0.2 0.5`
      .trim()
      .split(/\s+/)
      .map(Number);
  const y = NORRIS.filter((_, i) => i % 2 === 0);
  const x = NORRIS.filter((_, i) => i % 2 === 1);
  it('has the certified slope, intercept, their errors and the spread of what is left', () => {
    const line = fitLine(x, y);
    expect(line.n).toBe(36);
    expect(line.intercept).toBeCloseTo(-0.262323073774029, 9);
    expect(line.slope).toBeCloseTo(1.00211681802045, 11);
    expect(line.interceptError).toBeCloseTo(0.232818234301152, 9);
    expect(line.slopeError).toBeCloseTo(0.429796848199937e-3, 11);
    expect(line.spread).toBeCloseTo(0.884796396144373, 9);
    expect(line.r2).toBeCloseTo(0.999993745883712, 11);
  });
  it('is through points of a line exactly, and has no law for points above each other', () => {
    expect(fitLine([1, 2, 5], [3, 5, 11])).toMatchObject({ slope: 2, intercept: 1 });
    expect(() => fitLine([4, 4, 4], [1, 2, 3])).toThrow('All of these have the same setting, so no law can be seen in them.');
    expect(() => fitLine([1, 2], [1, 2])).toThrow('three points');
  });
  it('four of five next points lie where they are expected', () => {
    const r = random(11);
    const normal = () => Math.sqrt(-2 * Math.log(1 - r())) * Math.cos(2 * Math.PI * r());
    let inside = 0;
    for (let k = 0; k < 2000; k++) {
      const xs = Array.from({ length: 7 }, () => 10 * r());
      const line = fitLine(
        xs,
        xs.map((v) => 3 - 0.4 * v + normal()),
      );
      const at = 12 * r();
      const { y: expected, half } = nextPoint(line, at, 0.8);
      if (Math.abs(3 - 0.4 * at + normal() - expected) <= half) inside++;
    }
    expect(inside / 2000).toBeGreaterThan(0.77);
    expect(inside / 2000).toBeLessThan(0.83);
  });
});

it('mean and deviation of the sample', () => {
  expect(mean([2, 4, 4, 4, 5, 5, 7, 9])).toBe(5);
  expect(deviation([2, 4, 4, 4, 5, 5, 7, 9])).toBeCloseTo(Math.sqrt(32 / 7), 12);
  expect(deviation([3])).toBe(0);
});
