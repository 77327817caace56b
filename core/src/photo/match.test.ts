import { describe, expect, it } from 'vitest';
import { random } from '../maths/random';
import { cross, dot, normalise, scale, type Vec3 } from '../maths/vec3';
import { CORNERS, cornerOf, standBox } from './box';
import { bent, cameraFrom, seenFrom } from './camera';
import { type Bundle, matchCamera, type Px, seenAt, towards, turned, vanishingPoint } from './match';
import type { PhotoPin } from './photo';

const SIZE = { width: 1600, height: 1200 };
const BOX = [300, 400, 120] as const;

interface Truth {
  focalPx: number;
  middle: Px;
  axes: [Vec3, Vec3, Vec3];
  origin: Vec3;
}
/** A camera that looks at a box from somewhere, upright but for a little. */
function somewhere(next: () => number, middle: Px = [SIZE.width / 2, SIZE.height / 2]): Truth {
  const between = (a: number, b: number) => a + (b - a) * next();
  const azimuth = between(0.35, 1.2);
  const elevation = between(0.15, 0.6);
  // Upright: x to the right, y up, z out; then round, down and a little to the side.
  const bare: [Vec3, Vec3, Vec3] = [
    [1, 0, 0],
    [0, -1, 0],
    [0, 0, -1],
  ];
  const roll = between(-0.1, 0.1);
  const axes = bare.map((v) => turned(turned(turned(v, [0, azimuth, 0]), [elevation, 0, 0]), [0, 0, roll])) as [Vec3, Vec3, Vec3];
  const focalPx = between(0.8, 2) * SIZE.width;
  const far = (focalPx / SIZE.width) * between(700, 1100);
  // The middle of the box in front of the lens.
  const centre = [0, 1, 2].map((k) => axes.reduce((s, a, i) => s + (a[k] * BOX[i]) / 2, 0));
  return { focalPx, middle, axes, origin: [-centre[0], -centre[1], far - centre[2]] };
}
const seen = (t: Truth, corner: readonly number[]): Px => seenAt(t, cornerOf(t.axes, t.origin, BOX, corner)) as Px;
/** The edges of the box, with noise of so many px at their ends. */
function bundlesOf(t: Truth, axes: readonly (0 | 1 | 2)[], noise = () => 0): Bundle[] {
  return axes.map((axis) => ({
    axis,
    edges: CORNERS.filter((c) => c[axis] === 0).map((c) => {
      const end = c.map((v, k) => (k === axis ? 1 : v));
      return { points: [c, end].map((p) => seen(t, p).map((x) => x + noise()) as unknown as Px) };
    }),
  }));
}
const pinsOf = (t: Truth, noise = () => 0): PhotoPin[] =>
  CORNERS.map((corner) => ({ corner, at: seen(t, corner).map((x) => x + noise()) as unknown as Px }));
/** Normal deviates (Box & Muller 1958). */
const gauss = (next: () => number) => () => Math.sqrt(-2 * Math.log(1 - next())) * Math.cos(2 * Math.PI * next());
const degreesOff = (a: Vec3, b: Vec3) => (Math.acos(Math.min(1, Math.abs(dot(normalise(a), normalise(b))))) * 180) / Math.PI;

describe('a camera from edges that are parallel in the world', () => {
  it('200 cameras seen exactly: focal length, turn and place to the last digits', () => {
    const next = random(7);
    for (let i = 0; i < 200; i++) {
      const t = somewhere(next);
      const m = matchCamera(bundlesOf(t, [0, 1, 2]), SIZE);
      expect(Math.abs(m.focalPx / t.focalPx - 1)).toBeLessThan(1e-6);
      for (let k = 0; k < 3; k++) expect(degreesOff(m.axes[k], t.axes[k])).toBeLessThan(1e-3);
      expect(m.rmsPx).toBeLessThan(1e-5);
      const corners = pinsOf(t).filter(({ corner }) => corner[0] === 0 && corner[2] === 0);
      const stood = standBox(bundlesOf(t, [0, 1, 2]), corners, [null, BOX[1], null], SIZE);
      expect(Math.hypot(...stood.at.map((x, k) => x - t.origin[k]))).toBeLessThan(0.01);
      // As a camera of the piece it sees every corner where it is.
      const camera = cameraFrom(stood.matched, stood.at, [10, 20, 30], SIZE);
      for (const { corner, at } of pinsOf(t)) {
        const p = seenFrom(camera, [10 + corner[0] * BOX[0], 20 + corner[1] * BOX[1], 30 + corner[2] * BOX[2]]) as Px;
        expect(Math.hypot(p[0] - at[0], p[1] - at[1])).toBeLessThan(1e-2);
      }
    }
  });
  // Caprile & Torre 1990: the points in which two bundles at right angles meet give f² = −(v₁ − p)·(v₂ − p).
  it('two bundles alone give what the formula gives', () => {
    const next = random(3);
    for (let i = 0; i < 50; i++) {
      const t = somewhere(next);
      const bundles = bundlesOf(t, [0, 2]);
      const half = Math.hypot(SIZE.width, SIZE.height) / 2;
      const [a, b] = bundles.map((x) => vanishingPoint(x, SIZE)).map((v) => [(v[0] / v[2]) * half, (v[1] / v[2]) * half]);
      const f = Math.sqrt(-(a[0] * b[0] + a[1] * b[1]));
      expect(f / t.focalPx).toBeCloseTo(1, 6);
      expect(matchCamera(bundles, SIZE).focalPx / f).toBeCloseTo(1, 6);
    }
  });
  it('with a pixel of noise, 200 cameras are off as the sensitivity says', () => {
    const next = random(11);
    const noise = gauss(next);
    const scores: number[] = [];
    for (let i = 0; i < 200; i++) {
      const t = somewhere(next);
      const m = matchCamera(bundlesOf(t, [0, 1, 2], noise), SIZE);
      scores.push((m.focalPx / t.focalPx - 1) / m.focalShare);
    }
    const spread = Math.sqrt(scores.reduce((n, x) => n + x * x, 0) / scores.length);
    expect(spread).toBeGreaterThan(0.7);
    expect(spread).toBeLessThan(1.4);
    // Within two deviations in about 95 of 100 cases.
    expect(scores.filter((s) => Math.abs(s) < 2).length).toBeGreaterThan(180);
  });
  it('a third bundle finds that the picture was cropped; two can’t', () => {
    const t = somewhere(random(5), [700, 660]);
    const m = matchCamera(bundlesOf(t, [0, 1, 2]), { ...SIZE, cropped: true });
    expect(m.middle[0]).toBeCloseTo(700, 2);
    expect(m.middle[1]).toBeCloseTo(660, 2);
    expect(m.focalPx / t.focalPx).toBeCloseTo(1, 5);
    expect(() => matchCamera(bundlesOf(t, [0, 1]), { ...SIZE, cropped: true })).toThrow(
      /Two bundles can’t tell whether the picture was cropped/,
    );
    // Left alone, the other focal length shows in what is left over.
    expect(matchCamera(bundlesOf(t, [0, 1, 2]), SIZE).rmsPx).toBeGreaterThan(0.5);
  });
  it('a lens that bends lines is found from places between their ends', () => {
    const t = somewhere(random(9));
    const k = 0.06;
    const half = Math.hypot(SIZE.width, SIZE.height) / 2;
    // Where a straight place appears in the bent picture: r_s = r (1 + k r²), turned round by a few steps.
    const bend = ([x, y]: Px): Px => {
      const [u, v] = [(x - SIZE.width / 2) / half, (y - SIZE.height / 2) / half];
      const wanted = Math.hypot(u, v);
      let r = wanted;
      for (let i = 0; i < 50; i++) r = wanted / (1 + k * r * r);
      const s = wanted > 0 ? r / wanted : 1;
      return [SIZE.width / 2 + u * s * half, SIZE.height / 2 + v * s * half];
    };
    const bundles = bundlesOf(t, [0, 1, 2]).map((b) => ({
      ...b,
      edges: b.edges.map(({ points: [p, q] }) => ({
        points: [0, 0.25, 0.5, 0.75, 1].map((w) => bend([p[0] + w * (q[0] - p[0]), p[1] + w * (q[1] - p[1])])),
      })),
    }));
    const m = matchCamera(bundles, { ...SIZE, bends: true });
    expect(m.bending).toBeCloseTo(k, 3);
    expect(m.focalPx / t.focalPx).toBeCloseTo(1, 3);
  });
  it('what can’t be told is one sentence each', () => {
    const t = somewhere(random(2));
    const [x, y, z] = bundlesOf(t, [0, 1, 2]);
    expect(() => matchCamera([x], SIZE)).toThrow(/It takes two bundles of edges/);
    expect(() => matchCamera([{ ...x, edges: x.edges.slice(1, 2) }, y], SIZE)).toThrow(/single edge; it takes two/);
    expect(() => matchCamera([x, { ...y, axis: 0 }], SIZE)).toThrow(/same axis/);
    expect(() =>
      matchCamera(
        [
          {
            axis: 0,
            edges: [
              {
                points: [
                  [1, 1],
                  [2, 2],
                ],
              },
              x.edges[0],
            ],
          },
          y,
        ],
        SIZE,
      ),
    ).toThrow(/shorter than four pixels/);
    // Edges of one bundle in two: they meet in one point, which is at right angles to itself in no lens.
    expect(() => matchCamera([x, { axis: 2, edges: x.edges }], SIZE)).toThrow(/can’t be at right angles in any lens/);
    // Seen from straight ahead, nothing runs towards the camera.
    const flat = (axis: 0 | 1): Bundle => ({
      axis,
      edges: [100, 900].map((c) => ({
        points:
          axis === 0
            ? [
                [200, c],
                [1400, c],
              ]
            : [
                [c, 100],
                [c, 1100],
              ],
      })),
    });
    expect(() => matchCamera([flat(0), flat(1)], SIZE)).toThrow(/parallel in the picture/);
    // With the lens known, the same says how it is turned.
    expect(degreesOff(matchCamera([flat(0), flat(1)], { ...SIZE, focalPx: 1500 }).axes[0], [1, 0, 0])).toBeLessThan(1e-6);
    const m = matchCamera([x, y, z], SIZE);
    const right = cross(m.axes[0], m.axes[1]);
    expect(dot(right, m.axes[2])).toBeCloseTo(1, 9);
  });
});

describe('camera and box at once', () => {
  it('sizes within 1 % and as sure as they say, from corners put by hand to a pixel', () => {
    const next = random(21);
    const noise = gauss(next);
    let within = 0;
    let all = 0;
    for (let i = 0; i < 40; i++) {
      const t = somewhere(next);
      const bundles = bundlesOf(t, [0, 1, 2], noise);
      const box = standBox(
        bundles,
        pinsOf(t, () => 0.5 * noise()),
        [null, BOX[1], null],
        SIZE,
      );
      expect(box.offMm[1]).toBe(0);
      for (const k of [0, 2] as const) {
        expect(Math.abs(box.sizeMm[k] / BOX[k] - 1)).toBeLessThan(0.02);
        all++;
        if (Math.abs(box.sizeMm[k] - BOX[k]) < 2.5 * box.offMm[k]) within++;
      }
      expect(Math.max(...box.residuals)).toBeLessThan(4);
    }
    expect(within / all).toBeGreaterThan(0.9);
  });
  it('from its corners alone, without an edge drawn', () => {
    const next = random(6);
    for (let i = 0; i < 40; i++) {
      const t = somewhere(next);
      // What can be seen of it: all but the corner farthest away.
      const corners = pinsOf(t).filter(({ corner }) => corner.join() !== '1,0,0');
      const box = standBox([], corners, [null, BOX[1], null], SIZE);
      expect(box.matched.focalPx / t.focalPx).toBeCloseTo(1, 5);
      for (const k of [0, 1, 2]) expect(box.sizeMm[k]).toBeCloseTo(BOX[k], 2);
    }
  });
  it('seen from behind, its corners say so', () => {
    const t = somewhere(random(14));
    const behind: Truth = { ...t, axes: [scale(t.axes[0], -1), t.axes[1], scale(t.axes[2], -1)] };
    behind.origin = cornerOf(t.axes, t.origin, BOX, [1, 0, 1]);
    for (const sizes of [BOX, [null, BOX[1], null]]) {
      const box = standBox(bundlesOf(behind, [0, 1, 2]), pinsOf(behind), sizes, SIZE);
      expect(degreesOff(box.matched.axes[0], behind.axes[0])).toBeLessThan(1e-3);
      expect(dot(box.matched.axes[0], behind.axes[0])).toBeGreaterThan(0.99);
      expect(Math.max(...box.residuals)).toBeLessThan(1e-3);
    }
  });
  it('corners that say nothing, or the wrong thing, are one sentence', () => {
    const t = somewhere(random(4));
    const bundles = bundlesOf(t, [0, 1, 2]);
    const pins = pinsOf(t);
    expect(() => standBox(bundles, [pins[0]], BOX, SIZE)).toThrow(/It takes two corners/);
    expect(() => standBox(bundles, [pins[0], pins[1]], [null, BOX[1], null], SIZE)).toThrow(/No corners differ along y/);
    // The picture’s corners put at random.
    const next = random(1);
    const wrong = pins.map((p) => ({ ...p, at: [SIZE.width * next(), SIZE.height * next()] as const }));
    expect(() => standBox(bundles, wrong, [null, BOX[1], null], SIZE)).toThrow(/look whether each is the corner/);
    // A depth that nothing says stays unsaid.
    const flat = pins.filter((p) => p.corner[2] === 0);
    expect(standBox(bundles, flat, [null, BOX[1], null], SIZE).sizeMm[2]).toBe(0);
  });
});

describe('a lens that bends', () => {
  it('is turned round exactly', () => {
    const next = random(8);
    for (const bending of [0.08, -0.08]) {
      for (let i = 0; i < 50; i++) {
        const p: Px = [SIZE.width * next(), SIZE.height * next()];
        const half = Math.hypot(SIZE.width, SIZE.height) / 2;
        const [x, y] = towards({ focalPx: 1000, middle: [790, 610], bending }, p, SIZE);
        const q = bent([790, 610], bending, [790 + 1000 * x, 610 + 1000 * y], half);
        expect(Math.hypot(q[0] - p[0], q[1] - p[1])).toBeLessThan(1e-6);
      }
    }
  });
});
