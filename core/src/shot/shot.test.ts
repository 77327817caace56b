import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { cube } from '../../test/shapes';
import { apertureFor, blurDisc, depthOfField, F_STOPS, fieldOfView, focusBetween, hyperfocal, magnification } from './lens';
import { project, SHOT_DEFAULTS, solveShot } from './shot';

describe('depth of field', () => {
  it('a handbook’s example: 50 mm at f/8 with a circle of 0.03 mm, focused at 3 m', () => {
    // H = 50²/(8·0.03) + 50 = 10 466.7 mm; sharp from 2.34 m to 4.18 m.
    expect(hyperfocal(50, 8, 0.03)).toBeCloseTo(10466.7, 1);
    const { near, far } = depthOfField(50, 8, 0.03, 3000);
    expect(near).toBeCloseTo(2337, -1);
    expect(far).toBeCloseTo(4185, -1);
  });
  it('focused at the hyperfocal distance, sharp from half of it to infinity', () => {
    const h = hyperfocal(35, 11, 0.02);
    const { near, far } = depthOfField(35, 11, 0.02, h);
    expect(near).toBeCloseTo(h / 2, 6);
    expect(far).toBe(Infinity);
  });
  it('solving for two distances gives a lens whose limits are those distances, to within the thin-lens form', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 24, max: 135, noNaN: true }),
        fc.double({ min: 500, max: 3000, noNaN: true }),
        fc.double({ min: 20, max: 400, noNaN: true }),
        (f, near, depth) => {
          const [c, far] = [0.02, near + depth];
          const s = focusBetween(near, far);
          const n = apertureFor(f, c, near, far);
          const got = depthOfField(f, n, c, s);
          expect(got.near).toBeCloseTo(near, 6);
          expect(got.far).toBeCloseTo(far, 5);
          // At either limit a point is spread over exactly the circle.
          expect(blurDisc(f, n, s, near)).toBeCloseTo(c, 9);
          expect(blurDisc(f, n, s, far)).toBeCloseTo(c, 9);
        },
      ),
    );
  });
  it('life size is at twice the focal length, and the view narrows as the lens is drawn out', () => {
    expect(magnification(100, 200)).toBe(1);
    expect(blurDisc(50, 8, 1000, 1000)).toBe(0);
    // 24 mm across a 50 mm lens at infinity: 27.0°, as lens tables say.
    expect((fieldOfView(24, 50, 1e9) * 180) / Math.PI).toBeCloseTo(27, 1);
    expect(fieldOfView(24, 50, 300)).toBeLessThan(fieldOfView(24, 50, 3000));
  });
});

describe('framing', () => {
  const box = cube(100).positions;
  const seen = (shot: typeof SHOT_DEFAULTS, points: ArrayLike<number>) => {
    const solved = solveShot(shot, points);
    const at = Array.from({ length: points.length / 3 }, (_, i) =>
      project(solved.camera, [points[3 * i], points[3 * i + 1], points[3 * i + 2]], shot.widthPx, shot.heightPx),
    );
    return {
      solved,
      x: [Math.min(...at.map((p) => p[0])), Math.max(...at.map((p) => p[0]))],
      y: [Math.min(...at.map((p) => p[1])), Math.max(...at.map((p) => p[1]))],
    };
  };
  it('the piece touches the margin on one pair of sides, is centred, and no vertex is cut, from any side', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -180, max: 180, noNaN: true }),
        fc.double({ min: -20, max: 60, noNaN: true }),
        fc.constantFrom([800, 600], [600, 900], [512, 512]),
        fc.double({ min: 0.02, max: 0.2, noNaN: true }),
        (azimuth, elevation, [widthPx, heightPx], margin) => {
          const shot = { ...SHOT_DEFAULTS, azimuth, elevation, widthPx, heightPx, margin };
          const { x, y, solved } = seen(shot, box);
          const room = Math.min(x[0] / widthPx, y[0] / heightPx);
          expect(room).toBeCloseTo(margin, 4);
          expect(x[0] + x[1]).toBeCloseTo(widthPx, 1);
          expect(y[0] + y[1]).toBeCloseTo(heightPx, 1);
          expect(Math.max(...solved.fill)).toBeCloseTo(1 - 2 * margin, 4);
        },
      ),
      { numRuns: 40 },
    );
  });
  it('all of the piece is sharp when asked, with the next whole stop, and less of it with less', () => {
    const { solved } = seen(SHOT_DEFAULTS, box);
    expect(solved.focus.near).toBeLessThanOrEqual(solved.nearest + 1e-6);
    expect(solved.focus.far).toBeGreaterThanOrEqual(solved.farthest - 1e-6);
    expect(F_STOPS).toContain(solved.aperture);
    expect(solved.aperture).toBeGreaterThanOrEqual(solved.solved - 1e-9);
    const half = seen({ ...SHOT_DEFAULTS, sharpShare: 0.4 }, box).solved;
    expect(half.solved).toBeLessThan(solved.solved);
    expect(half.focus.at).toBeLessThan(solved.focus.at);
    expect(seen({ ...SHOT_DEFAULTS, aperture: 4 }, box).solved.aperture).toBe(4);
  });
  it('a longer lens stands further off and flattens', () => {
    const [short, long] = [50, 135].map((lensMm) => seen({ ...SHOT_DEFAULTS, lensMm }, box).solved);
    expect(long.nearest).toBeGreaterThan(2 * short.nearest);
    expect(long.perspective).toBeLessThan(short.perspective);
    expect(long.camera.lensRadius).toBeCloseTo(135 / long.aperture / 2, 9);
  });
});
