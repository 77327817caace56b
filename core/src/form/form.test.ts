import { describe, expect, it } from 'vitest';
import { random } from '../maths/random';
import { length, sub } from '../maths/vec3';
import { boundaryLoops } from '../mesh/connectivity';
import { areaOf, boundsOf, eulerCharacteristic, isWatertight, volumeOf } from '../mesh/measures';
import { attribute, faceCount, type PolyMesh, triangleCount } from '../mesh/polymesh';
import { balancedScale } from './budget/chord';
import { minimisingFrames } from './path';
import { drawnCurves, outlineOf, type Profile } from './profile';
import { budgetOf, form } from './recipe';
import type { Adaptive } from './step';
import type { Step } from './steps';
import { type BarStep, bar } from './steps/bar';
import { type TurnedStep, turned } from './steps/turned';

const profile = (points: [number, number, number?][], kinds: ('line' | 'arc' | 'tangent')[] = [], bulges: number[] = []): Profile => ({
  points: points.map(([r, y, f], i) => ({ id: `p${i}`, r, y, ...(f && { fillet: f }) })),
  segments: points
    .slice(1)
    .map((_, i) => ({ id: `s${i}`, name: `s${i}`, kind: kinds[i] ?? 'line', ...(bulges[i] !== undefined && { bulge: bulges[i] }) })),
});
const turnedStep = (p: Profile, more: Partial<TurnedStep> = {}): TurnedStep => ({
  kind: 'turned',
  id: 't',
  name: 'Turned',
  enabled: true,
  profile: p,
  body: 'solid',
  edgeRadius: 0,
  rings: [],
  ...more,
});
const barStep = (path: [number, number, number, number?][], radius: number, more: Partial<BarStep> = {}): BarStep => ({
  kind: 'bar',
  id: 'b',
  name: 'Bar',
  enabled: true,
  radius,
  edgeRadius: 0,
  path: path.map(([x, y, z, bend], i) => ({ id: `q${i}`, x, y, z, ...(bend && { bend }) })),
  ...more,
});
const dense = { mesh: 'high', toleranceMm: 0.0003 } as const;
const low = (n: number) => ({ mesh: 'low', count: () => n }) as const;

describe('turned solids against Pappus (area 2π·r̄·L, volume 2π·r̄·A)', () => {
  it('cylinder', () => {
    const m = turned.maker.build(
      turnedStep(
        profile([
          [20, 0],
          [20, 50],
        ]),
      ),
      dense,
    );
    expect(volumeOf(m) / (Math.PI * 400 * 50)).toBeCloseTo(1, 4);
    expect(areaOf(m) / (2 * Math.PI * 20 * 50 + 2 * Math.PI * 400)).toBeCloseTo(1, 4);
    expect(isWatertight(m)).toBe(true);
  });
  it('cone frustum: πh(R² + Rr + r²)/3', () => {
    const m = turned.maker.build(
      turnedStep(
        profile([
          [30, 0],
          [12, 40],
        ]),
      ),
      dense,
    );
    expect(volumeOf(m) / ((Math.PI * 40 * (900 + 360 + 144)) / 3)).toBeCloseTo(1, 4);
  });
  it('sphere from one arc: 4πr³/3 and 4πr²', () => {
    const m = turned.maker.build(
      turnedStep(
        profile(
          [
            [0, -25],
            [0, 25],
          ],
          ['arc'],
          [25],
        ),
      ),
      dense,
    );
    expect(volumeOf(m) / ((4 / 3) * Math.PI * 25 ** 3)).toBeCloseTo(1, 3.9);
    expect(areaOf(m) / (4 * Math.PI * 625)).toBeCloseTo(1, 4);
  });
  it('spherical cap: πh²(3R − h)/3', () => {
    const m = turned.maker.build(
      turnedStep(
        profile(
          [
            [20, 0],
            [0, 10],
          ],
          ['arc'],
          [Math.hypot(20, 10) ** 2 / (2 * 10) - Math.sqrt((Math.hypot(20, 10) ** 2 / 20) ** 2 - (Math.hypot(20, 10) / 2) ** 2)],
        ),
      ),
      dense,
    );
    expect(volumeOf(m) / ((Math.PI * 100 * (75 - 10)) / 3)).toBeCloseTo(1, 3);
  });
  it('the wall of a tube: π(R² − r²)h, and a torus of genus 1', () => {
    const m = turned.maker.build(
      turnedStep(
        profile([
          [30, 0],
          [30, 60],
        ]),
        { body: 'wall', wall: 2 },
      ),
      dense,
    );
    expect(volumeOf(m) / (Math.PI * (900 - 784) * 60)).toBeCloseTo(1, 4);
    expect(eulerCharacteristic(m)).toBe(0);
    expect(isWatertight(m)).toBe(true);
  });
  it('the wall of a cup: outside less inside', () => {
    const m = turned.maker.build(
      turnedStep(
        profile([
          [0, 0],
          [20, 0],
          [20, 40],
        ]),
        { body: 'wall', wall: 3 },
      ),
      dense,
    );
    expect(volumeOf(m) / (Math.PI * (400 * 40 - 289 * 37))).toBeCloseTo(1, 4);
    expect(eulerCharacteristic(m)).toBe(2);
  });
  it('a rounding tighter than the wall has a sharp inside', () => {
    const cup = (fillet: number) =>
      volumeOf(
        turned.maker.build(
          turnedStep(
            profile([
              [0, 0],
              [20, 0, fillet],
              [20, 40],
            ]),
            { body: 'wall', wall: 3 },
          ),
          dense,
        ),
      );
    // Outside loses the corner’s area r²(1 − π/4) turned about its centroid; the inside stays a square corner.
    const lost = (r: number) => 2 * Math.PI * (20 - (r * (10 - 3 * Math.PI)) / (12 - 3 * Math.PI)) * r * r * (1 - Math.PI / 4);
    for (const r of [1, 3]) expect((cup(0) - cup(r)) / lost(r)).toBeCloseTo(1, 1);
  });
  it('an open profile keeps its two rims', () => {
    const m = turned.maker.build(
      turnedStep(
        profile([
          [10, 0],
          [12, 20],
        ]),
        { body: 'open' },
      ),
      low(12),
    );
    expect(boundaryLoops(m)).toHaveLength(2);
  });
});

describe('bars', () => {
  it('a straight rod has the area and volume of its n-gon prism', () => {
    const m = bar.maker.build(
      barStep(
        [
          [0, 0, 0],
          [0, 100, 0],
        ],
        5,
      ),
      low(8),
    );
    const r = 5 * balancedScale(8);
    expect(volumeOf(m)).toBeCloseTo(4 * r * r * Math.sin(Math.PI / 4) * 100, 6);
    expect(isWatertight(m)).toBe(true);
    expect(eulerCharacteristic(m)).toBe(2);
  });
  it('a bent rod has the volume of its section times its middle line (Pappus)', () => {
    const m = bar.maker.build(
      barStep(
        [
          [0, 0, 0],
          [0, 60, 0, 20],
          [60, 60, 0],
        ],
        4,
      ),
      dense,
    );
    const middle = 40 + (Math.PI / 2) * 20 + 40;
    expect(volumeOf(m) / (Math.PI * 16 * middle)).toBeCloseTo(1, 3);
  });
  it('rounded ends lose what a quarter round loses, and stay closed and outward', () => {
    const m = bar.maker.build(
      barStep(
        [
          [0, 0, 0],
          [0, 40, 0],
        ],
        5,
        { edgeRadius: 2 },
      ),
      dense,
    );
    expect(isWatertight(m)).toBe(true);
    // One rounded end by Pappus: cylinder less the corner area e²(1 − π/4) turned about its centroid.
    const e = 2;
    const corner = e * e * (1 - Math.PI / 4);
    const centroid = 5 - (e * (10 - 3 * Math.PI)) / (12 - 3 * Math.PI);
    const lost = 2 * Math.PI * centroid * corner;
    expect(volumeOf(m) / (Math.PI * 25 * 40 - 2 * lost)).toBeCloseTo(1, 2);
  });
  it('frames on a helix turn as little as they can (Wang et al. 2008: error of fourth order)', () => {
    const error = (n: number) => {
      const points = Array.from({ length: n + 1 }, (_, i) => {
        const a = (4 * Math.PI * i) / n;
        return [10 * Math.cos(a), 3 * a, 10 * Math.sin(a)] as const;
      });
      const tangents = Array.from({ length: n + 1 }, (_, i) => {
        const a = (4 * Math.PI * i) / n;
        const l = Math.hypot(10, 3);
        return [(-10 * Math.sin(a)) / l, 3 / l, (10 * Math.cos(a)) / l] as const;
      });
      const frames = minimisingFrames(points, tangents, [-1, 0, 0]);
      // Analytic: relative to the Frenet normal the minimising frame turns by −∫τ ds, τ = c/(a² + c²), ds = √(a² + c²) dα.
      const a = 4 * Math.PI;
      const turn = (3 / (100 + 9)) * Math.hypot(10, 3) * a;
      const normal = [-Math.cos(a), 0, -Math.sin(a)];
      const t = tangents[n];
      const binormal = [t[1] * normal[2] - t[2] * normal[1], t[2] * normal[0] - t[0] * normal[2], t[0] * normal[1] - t[1] * normal[0]];
      const both = [1, -1].map(
        (s) => [0, 1, 2].map((k) => Math.cos(turn) * normal[k] + s * Math.sin(turn) * binormal[k]) as [number, number, number],
      );
      return Math.min(...both.map((w) => length(sub(frames[n], w))));
    };
    expect(error(400)).toBeLessThan(1e-4);
    expect(error(100) / error(200)).toBeGreaterThan(10);
  });
  it.each([
    [
      barStep(
        [
          [0, 0, 0],
          [0, 10, 0, 3],
          [10, 10, 0],
        ],
        4,
      ),
      /needs more than that/,
    ],
    [
      barStep(
        [
          [0, 0, 0],
          [0, 10, 0, 8],
          [6, 10, 0, 8],
          [6, 20, 0],
        ],
        2,
      ),
      /overlap/,
    ],
    [
      barStep(
        [
          [0, 0, 0],
          [0, 0, 0],
        ],
        2,
      ),
      /same place/,
    ],
    [barStep([[0, 0, 0]], 2), /at least two/],
  ])('says what does not fit', (step, words) => {
    expect(() => bar.maker.build(step, low(8))).toThrow(words);
  });
});

describe('profiles that can’t be built say where and how much', () => {
  it.each([
    [
      profile([
        [10, 0],
        [10, 5, 30],
        [20, 5],
      ]),
      {},
      /does not fit at point 2; 5\u00a0mm/,
    ],
    [
      profile([
        [10, 0],
        [10, 20],
      ]),
      { body: 'wall' as const, wall: 0 },
      /above 0/,
    ],
    [
      profile([
        [10, 0],
        [10, 0],
      ]),
      {},
      /same place/,
    ],
    [
      profile([
        [-1, 0],
        [10, 0],
      ]),
      {},
      /other side of the axis/,
    ],
    [
      profile([
        [10, 0, 0],
        [10, 20, 2],
        [8, 20],
      ]),
      { body: 'wall' as const, wall: 11 },
      /would cross itself/,
    ],
  ])('%#', (p, options, words) => {
    expect(() => outlineOf(drawnCurves(p), { body: 'solid', ...options })).toThrow(words);
  });
});

describe('recipes', () => {
  const steps: Step[] = [
    turnedStep(
      profile([
        [10, 0],
        [12, 30, 4],
        [0, 34],
      ]),
    ),
    { kind: 'array', id: 'a', name: 'Three', enabled: true, count: 3, x: 40, z: 0, startDegrees: 0 },
  ];
  it('an array makes placements, not faces, and counts them', () => {
    const made = form(steps, low(12));
    expect(made.placements).toHaveLength(3);
    const once = form(steps.slice(0, 1), low(12));
    expect(faceCount(made.mesh as PolyMesh)).toBe(faceCount(once.mesh as PolyMesh));
    expect(budgetOf(steps).triangles(() => 12)).toBe(3 * triangleCount(once.mesh as PolyMesh));
  });
  it('a step that can’t be built is named and leaves the rest standing', () => {
    const bad = {
      ...turnedStep(
        profile([
          [10, 0],
          [10, 5, 90],
          [20, 5],
        ]),
      ),
      id: 'bad',
    };
    const made = form([bad, ...steps], low(12));
    expect(made.problems).toEqual([expect.objectContaining({ step: 'bad', code: 'profile/fillet' })]);
    expect(made.mesh).toBeDefined();
  });
  it('predict their triangles, close what they should, and say it by Euler’s formula, on 200 random recipes', () => {
    const next = random(21);
    for (let i = 0; i < 200; i++) {
      const n = 2 + Math.floor(next() * 4);
      const points = Array.from({ length: n }, (_, k): [number, number] => [4 + 20 * next(), k * (4 + 10 * next()) + k]);
      const kinds = points.map(() => (next() < 0.3 ? 'arc' : 'line') as 'arc' | 'line');
      const solid = next() < 0.6;
      const step = turnedStep(
        profile(
          points,
          kinds,
          points.map(() => next() - 0.5),
        ),
        { body: solid ? 'solid' : 'open' },
      );
      const count = (a: Adaptive) => Math.max(a.minimum, 3 + Math.floor(a.label.length % 9));
      const m = turned.maker.build(step, { mesh: 'low', count });
      expect(triangleCount(m)).toBe(turned.maker.plan(step).triangles(count));
      // A solid is a sphere (χ = 2), an open wall an annulus (χ = 0, two rims).
      expect(eulerCharacteristic(m)).toBe(solid ? 2 : 0);
      expect(boundaryLoops(m)).toHaveLength(solid ? 0 : 2);
      if (solid) expect(volumeOf(m)).toBeGreaterThan(0);
    }
  });
  it('names its patches the same in low and high, whatever the counts', () => {
    const patches = (m: PolyMesh) => new Set([...(attribute(m, 'patch', 'face')?.data ?? [])].map((i) => m.patches[i]));
    const step = turnedStep(
      profile([
        [10, 0],
        [12, 30, 4],
        [0, 34],
      ]),
      { edgeRadius: 1 },
    );
    const names = patches(turned.maker.build(step, low(8)));
    expect(patches(turned.maker.build(step, low(31)))).toEqual(names);
    for (const name of names) expect(patches(turned.maker.build(step, dense)).has(name)).toBe(true);
  });
  it('adds edges and rings to the high mesh only', () => {
    const step = turnedStep(
      profile([
        [20, 0],
        [20, 40],
      ]),
      { edgeRadius: 1, rings: [{ segment: 's0', at: 0.5, width: 2, depth: 1 }] },
    );
    const plain = volumeOf(
      turned.maker.build(
        turnedStep(
          profile([
            [20, 0],
            [20, 40],
          ]),
        ),
        dense,
      ),
    );
    const high = volumeOf(turned.maker.build(step, dense));
    expect(high).toBeLessThan(plain);
    // The groove is a circular segment of chord 2 and depth 1, a half disc, turned at about its centroid.
    const ring = 2 * Math.PI * (20 - 4 / (3 * Math.PI)) * (Math.PI / 2);
    expect(plain - high).toBeGreaterThan(ring * 0.95);
    expect(boundsOf(turned.maker.build(step, low(24))).max[1]).toBe(40);
  });
});
