import { describe, expect, it } from 'vitest';
import { random } from '../maths/random';
import { measure } from './measure';
import { type Reference, rescaled, scaleBetween, viewAxes } from './reference';

describe('measuring', () => {
  it('the 3-4-5 triangle: its hypotenuse, its right angle, its circle’s radius half the hypotenuse (Thales)', () => {
    const [a, b, c] = [
      [0, 0, 0],
      [3, 0, 0],
      [3, 4, 0],
    ] as const;
    expect(measure('distance', [a, c])?.value).toBeCloseTo(5, 12);
    expect(measure('distance', [a, c])?.along).toEqual([3, 4, 0]);
    expect(measure('angle', [a, b, c])?.value).toBeCloseTo(90, 12);
    expect(measure('radius', [a, b, c])?.value).toBeCloseTo(2.5, 12);
  });
  it('three places on any circle in space give its radius', () => {
    const next = random(5);
    for (let i = 0; i < 50; i++) {
      const r = 1 + 50 * next();
      const tilt = next() * 3;
      const on = (t: number) => [r * Math.cos(t) + 4, r * Math.sin(t) * Math.cos(tilt) - 2, r * Math.sin(t) * Math.sin(tilt)] as const;
      const t = next();
      expect(measure('radius', [on(t), on(t + 0.4 + next()), on(t + 2 + next())])?.value).toBeCloseTo(r, 6);
    }
  });
  it('what places don’t determine is null', () => {
    expect(measure('distance', [[0, 0, 0]])).toBeNull();
    expect(
      measure('radius', [
        [0, 0, 0],
        [1, 1, 0],
        [2, 2, 0],
      ]),
    ).toBeNull();
    expect(
      measure('angle', [
        [1, 1, 1],
        [1, 1, 1],
        [2, 2, 0],
      ]),
    ).toBeNull();
  });
});

describe('a picture behind the piece', () => {
  const r: Reference = {
    id: 'r',
    name: 'r',
    view: 'front',
    blob: '',
    widthPx: 400,
    heightPx: 300,
    mmPerPx: 1,
    x: -200,
    y: 0,
    opacity: 0.5,
  };
  it('is scaled by two places and a distance', () => {
    expect(scaleBetween([10, 10], [310, 410], 250)).toBeCloseTo(0.5, 12);
    expect(() => scaleBetween([1, 1], [2, 1], 9)).toThrow(/less than two pixels/);
    expect(() => scaleBetween([1, 1], [20, 1], 0)).toThrow(/no scale/);
  });
  it('stays where it is at the place it is scaled about', () => {
    const at = (q: Reference, px: number, py: number) => [q.x + px * q.mmPerPx, q.y + (q.heightPx - py) * q.mmPerPx];
    const half = rescaled(r, 0.5, [120, 80]);
    expect(at(half, 120, 80)).toEqual(at(r, 120, 80));
  });
  it('views are right-handed: across × up faces the eye', () => {
    for (const view of ['front', 'side', 'top'] as const) {
      const { across: a, up: u, eye } = viewAxes(view);
      expect([a[1] * u[2] - a[2] * u[1], a[2] * u[0] - a[0] * u[2], a[0] * u[1] - a[1] * u[0]].map((x) => x + 0)).toEqual(eye);
    }
  });
});
