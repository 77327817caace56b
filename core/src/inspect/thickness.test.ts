import { beforeAll, describe, expect, it } from 'vitest';
import { testKit } from '../../test/kit';
import { cube, sheet } from '../../test/shapes';
import type { Kit } from '../kit';
import { placement } from '../maths/mat4';
import { random } from '../maths/random';
import { makeMesh, type PolyMesh, triangleCount } from '../mesh/polymesh';
import { shell } from '../mesh/shell';
import { simplify } from '../mesh/simplify';
import { soupOf } from '../mesh/soup';
import { subdivide } from '../mesh/subdivide';
import { transform } from '../mesh/transform';
import { deviation, ON_TRIANGLE } from './deviation';
import { thicknesses, thinPlaces, wallThickness } from './thickness';

let kit: Kit;
beforeAll(async () => {
  kit = await testKit();
});
const ball = (levels: number): PolyMesh => {
  let m = cube(40, [0, -20, 0]);
  for (let i = 0; i < levels; i++) m = subdivide(m);
  return m;
};

describe('walls', () => {
  it('of a slab are as thick as the slab, of a hollow cube as its wall says', () => {
    const slab = transform(cube(1), [60, 0, 0, 0, 0, 3, 0, 0, 0, 0, 60, 0, 0, 0, 0, 1]);
    expect(wallThickness(slab)).toEqual({ least: expect.closeTo(3, 4), most: expect.closeTo(60, 4) });
    const hollow = wallThickness(shell(cube(40), { thickness: 2.5 }).mesh);
    expect(hollow?.least).toBeCloseTo(2.5, 4);
    // Into the hollow's corner regions the outside is farther off, never nearer.
    expect(hollow?.most).toBeGreaterThan(2.499);
    expect(wallThickness(sheet(2, 10, () => 0))).toBeNull();
  });
});

describe('deviation', () => {
  it('of a surface from itself moved along its normal is that distance; of a cube from its inner ball what geometry says', () => {
    const m = cube(20, [0, -10, 0]);
    expect(deviation(m, m)).toEqual({ most: expect.closeTo(0, 5), mean: expect.closeTo(0, 5) });
    const larger = transform(m, [1.1, 0, 0, 0, 0, 1.1, 0, 0, 0, 0, 1.1, 0, 0, 0, 0, 1]);
    // From the larger cube's corner: 1 mm along each axis.
    expect(deviation(m, larger).most).toBeCloseTo(Math.sqrt(3), 5);
  });
  it('of a simplified ball is within what the library itself reckons, and falls as more triangles stay', () => {
    const dense = ball(5);
    const found = [2000, 500, 120].map((triangles) => {
      const lean = simplify(kit.simplifier as NonNullable<Kit['simplifier']>, dense, { triangles });
      expect(triangleCount(lean)).toBeLessThanOrEqual(triangles);
      return deviation(dense, lean).most;
    });
    expect(found[0]).toBeLessThan(found[1]);
    expect(found[1]).toBeLessThan(found[2]);
    // A sphere of radius r in n triangles of equal size: sagitta ≈ 4π r² / (√3 n) · 1 / (2 r) · 4/3, within a factor of four.
    const r = 16;
    const sagitta = (n: number) => ((4 * Math.PI * r * r) / n / Math.sqrt(3) / (2 * r)) * (4 / 3);
    expect(found[1] / sagitta(500)).toBeLessThan(4);
    expect(found[1] / sagitta(500)).toBeGreaterThan(1 / 4);
  });
  it('faces that are to stay are all there afterwards', () => {
    const dense = ball(4);
    const keep = Uint8Array.from({ length: dense.faceStart.length - 1 }, (_, f) =>
      dense.positions[3 * dense.faceVert[dense.faceStart[f]] + 1] > 8 ? 1 : 0,
    );
    const lean = simplify(kit.simplifier as NonNullable<Kit['simplifier']>, dense, { triangles: 400, keep });
    const places = new Set(Array.from({ length: lean.positions.length / 3 }, (_, v) => lean.positions.slice(3 * v, 3 * v + 3).join()));
    for (let f = 0; f < keep.length; f++)
      if (keep[f])
        for (let c = dense.faceStart[f]; c < dense.faceStart[f + 1]; c++) {
          const v = 3 * dense.faceVert[c];
          expect(places.has(dense.positions.slice(v, v + 3).join())).toBe(true);
        }
  });
});

describe('walls in closed form', () => {
  it('of a wedge: straight in from its slope to its base, h(x) / cos α', () => {
    // A prism with a right triangle for its section: 60 long, 18 high at the back.
    const [long, high, deep] = [60, 18, 20];
    const wedge = makeMesh({
      positions: [0, 0, 0, long, 0, 0, 0, high, 0, 0, 0, deep, long, 0, deep, 0, high, deep],
      faceStart: [0, 3, 6, 10, 14, 18],
      faceVert: [0, 2, 1, 3, 4, 5, 0, 1, 4, 3, 1, 2, 5, 4, 2, 0, 3, 5],
    });
    const fine = subdivide(subdivide(subdivide(wedge, { smooth: false }), { smooth: false }), { smooth: false });
    const soup = soupOf(fine);
    const thick = thicknesses(fine);
    const slope = Math.hypot(long, high);
    let asked = 0;
    for (let t = 0; t < thick.length; t++) {
      const [x, y, z] = [0, 1, 2].map((k) => (soup[9 * t + k] + soup[9 * t + 3 + k] + soup[9 * t + 6 + k]) / 3);
      // On the slope, where straight in meets the base and not the back.
      if (Math.abs(y - high * (1 - x / long)) > 1e-9 || z < 1e-6 || z > deep - 1e-6) continue;
      const into = [-high / slope, -long / slope];
      if (x + (into[0] * y) / -into[1] < 0.01) continue;
      expect(thick[t]).toBeCloseTo((y * slope) / long, 3);
      asked++;
    }
    expect(asked).toBeGreaterThan(50);
    expect(thinPlaces(fine, 2).least).toBeLessThan(2);
  });
  it('of a hollow ball: its wall, to what its faces are off the round', () => {
    const wall = 3;
    const thick = thicknesses(shell(ball(4), { thickness: wall }).mesh);
    let outside = 0;
    for (const t of thick) if (Math.abs(t - wall) < 0.02) outside++;
    expect(outside / thick.length).toBeGreaterThan(0.99);
  });
});

describe('deviation and simplification against the outside', () => {
  it('sampled distances are those of brute force over every triangle', () => {
    const next = random(5);
    for (let i = 0; i < 4; i++) {
      const a = ball(2);
      const b = transform(ball(1), placement([next(), next(), next()], [30 * next(), 30 * next(), 30 * next()]));
      let most = 0;
      for (const [p, q] of [
        [soupOf(a), soupOf(b)],
        [soupOf(b), soupOf(a)],
      ])
        for (let t = 0; t < p.length / 9; t++)
          for (const w of ON_TRIANGLE) {
            const at = [0, 1, 2].map((k) => w[0] * p[9 * t + k] + w[1] * p[9 * t + 3 + k] + w[2] * p[9 * t + 6 + k]);
            let least = Infinity;
            for (let s = 0; s < q.length / 9; s++) least = Math.min(least, toTriangle(at, q, 9 * s));
            most = Math.max(most, least);
          }
      expect(deviation(a, b).most).toBeCloseTo(most, 4);
    }
  });
  it('what is measured is of the order of the simplifier’s own estimate', () => {
    const simplifier = kit.simplifier as NonNullable<Kit['simplifier']>;
    const dense = ball(5);
    const index = Uint32Array.from(dense.triangles, (c) => dense.faceVert[c]);
    const positions = Float32Array.from(dense.positions);
    for (const triangles of [3000, 1000, 300]) {
      const lean = simplify(simplifier, dense, { triangles });
      const [, estimate] = simplifier.simplify(index, positions, 3, 3 * triangles, 1e9, ['ErrorAbsolute']);
      const found = deviation(dense, lean).most;
      // Its error is a mean over planes, ours the farthest place: no less, and within a few times as much.
      expect(found).toBeGreaterThan(0.5 * estimate);
      expect(found).toBeLessThan(8 * estimate);
    }
  });
});

/** Distance of a point from a triangle by looking at its inside, sides and corners one by one. */
function toTriangle(at: readonly number[], q: Float64Array, o: number): number {
  const P = [0, 3, 6].map((k) => [q[o + k], q[o + k + 1], q[o + k + 2]]);
  const sub = (x: readonly number[], y: readonly number[]) => x.map((v, k) => v - y[k]);
  const dot = (x: readonly number[], y: readonly number[]) => x[0] * y[0] + x[1] * y[1] + x[2] * y[2];
  const cross = (x: readonly number[], y: readonly number[]) => [
    x[1] * y[2] - x[2] * y[1],
    x[2] * y[0] - x[0] * y[2],
    x[0] * y[1] - x[1] * y[0],
  ];
  const n = cross(sub(P[1], P[0]), sub(P[2], P[0]));
  const inside = [0, 1, 2].every((k) => dot(cross(sub(P[(k + 1) % 3], P[k]), sub(at, P[k])), n) >= 0);
  if (inside) return Math.abs(dot(sub(at, P[0]), n)) / Math.hypot(...n);
  return Math.min(
    ...[0, 1, 2].map((k) => {
      const e = sub(P[(k + 1) % 3], P[k]);
      const t = Math.max(0, Math.min(1, dot(sub(at, P[k]), e) / dot(e, e)));
      return Math.hypot(...sub(at, P[k]).map((v, i) => v - t * e[i]));
    }),
  );
}
