import { beforeAll, describe, expect, it } from 'vitest';
import { testKit } from '../../test/kit';
import { cube, sheet } from '../../test/shapes';
import type { Kit } from '../kit';
import { type PolyMesh, triangleCount } from '../mesh/polymesh';
import { shell } from '../mesh/shell';
import { simplify } from '../mesh/simplify';
import { subdivide } from '../mesh/subdivide';
import { transform } from '../mesh/transform';
import { deviation } from './deviation';
import { wallThickness } from './thickness';

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
