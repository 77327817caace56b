import { describe, expect, it } from 'vitest';
import { ball } from '../../test/scenes';
import { cube, sheet, torusMesh } from '../../test/shapes';
import { IDENTITY, rotation, translation } from '../maths/mat4';
import { makeMesh, type PolyMesh } from '../mesh/polymesh';
import { transform } from '../mesh/transform';
import { type BakeSettings, prepareBake } from '../pipeline/bake';
import { bakeTexels } from '../pipeline/bake-finish';
import { BAKE_DEFAULTS } from '../pipeline/document';
import { curvatureMap } from './maps/curvature';
import { nearestKnown, spread } from './spread';

const SIZE = 64;
const settings = (curvatureRadiusMm: number): BakeSettings => ({
  ...BAKE_DEFAULTS,
  size: SIZE,
  samples: 1,
  occlusion: false,
  distances: 'uniform',
  frontMm: 30,
  rearMm: 30,
  curvatureRadiusMm,
});
const part = (mesh: PolyMesh) => ({ id: 'p', name: 'p', mesh, placements: [IDENTITY] });

/** Curvature · radius over a flat low sheet of 40 mm, looking down on a high mesh. */
function bend(high: PolyMesh, radius: number): Float32Array {
  const flat = sheet(2, 40, () => 0);
  return bakeTexels(prepareBake([part(flat)], [part(high)], new Map(), settings(radius)).prepared).curvature;
}
const middle = (c: Float32Array) => c[SIZE * (SIZE / 2) + SIZE / 2];

describe('curvature', () => {
  it('of a sphere is one over its radius, outside positive', () => {
    // Facets of a fine ball stand for the sphere; at a radius of 3 mm on 25 mm, κ·r = 0.12.
    const c = middle(bend(ball(25, [0, -25, 0], 160), 3));
    expect(Math.abs(c / (3 / 25) - 1)).toBeLessThan(0.03);
  });
  it('of a bowl is the same, negative', () => {
    const bowl = sheet(160, 40, (x, z) => 25 - Math.sqrt(Math.max(0, 625 - x * x - z * z)));
    expect(Math.abs(middle(bend(bowl, 3)) / (-3 / 25) - 1)).toBeLessThan(0.05);
  });
  it('of a cylinder is half of it: bent one way, flat the other', () => {
    const barrel = sheet(160, 40, (x) => Math.sqrt(625 - Math.min(624, x * x)) - 25);
    expect(Math.abs(middle(bend(barrel, 3)) / (1.5 / 25) - 1)).toBeLessThan(0.06);
  });
  it('of a torus at its outer rim is the mean of both its bends, ½(1/r + 1/(R + r))', () => {
    const [big, small] = [40, 15];
    const rim = transform(
      transform(torusMesh(big, small, 360, 160), rotation([0, 0, 1], Math.PI / 2)),
      translation([0, -(big + small), 0]),
    );
    const wanted = (1 / small + 1 / (big + small)) / 2;
    expect(Math.abs(middle(bend(rim, 3)) / (3 * wanted) - 1)).toBeLessThan(0.05);
  });
  it('of a plane is nothing; near a box’s edge it rises, near a wall it falls', () => {
    expect(
      Math.abs(
        middle(
          bend(
            sheet(1, 40, () => 0),
            1,
          ),
        ),
      ),
    ).toBeLessThan(1e-5);
    const box = bend(cube(20, [0, -20, 0]), 2);
    // The box’s top reaches 10 mm from the middle: texel 48 of 64.
    expect(Math.abs(box[SIZE * 32 + 32])).toBeLessThan(1e-3);
    expect(box[SIZE * 32 + 47]).toBeGreaterThan(0.2);
    // Floor and a wall that rises from it at x = 5 mm.
    const step = makeMesh({
      positions: [-30, 0, -30, 5, 0, -30, 5, 0, 30, -30, 0, 30, 5, 20, -30, 5, 20, 30],
      faceStart: [0, 4, 8],
      faceVert: [0, 3, 2, 1, 1, 2, 5, 4],
    });
    const inner = bend(step, 2);
    expect(inner[SIZE * 32 + 39]).toBeLessThan(-0.2);
    expect(Math.abs(inner[SIZE * 32 + 20])).toBeLessThan(1e-3);
  });
  it('is stored with 128 for flat, in one channel, and left out when not asked for', () => {
    const flat = sheet(2, 40, () => 0);
    // Wider than the low one, so that nothing falls away at its rim.
    const texels = bakeTexels(
      prepareBake([part(flat)], [part(sheet(2, 60, () => 0))], new Map(), { ...settings(1), curvature: true }).prepared,
    );
    const map = curvatureMap(texels);
    expect([map.channels, map.depth]).toEqual([1, 8]);
    expect(new Set(map.data)).toEqual(new Set([128]));
    expect(prepareBake([part(flat)], [part(flat)], new Map(), { ...settings(1), curvature: false }).prepared.curvatureRadiusMm).toBe(0);
  });
});

describe('carrying known texels outward', () => {
  it('every texel takes a nearest one’s value, in steps along rows and columns', () => {
    const known = new Uint8Array(25);
    known[6] = 1;
    known[18] = 1;
    const from = nearestKnown(known, 5);
    expect(from[6]).toBe(6);
    for (let i = 0; i < 25; i++) {
      const steps = (s: number) => Math.abs((i % 5) - (s % 5)) + Math.abs(Math.floor(i / 5) - Math.floor(s / 5));
      expect(steps(from[i])).toBe(Math.min(steps(6), steps(18)));
    }
    const data = new Uint8Array(75);
    data.set([1, 2, 3], 18);
    data.set([7, 8, 9], 54);
    const out = spread(data, 3, from);
    expect([...out.slice(0, 3)]).toEqual([1, 2, 3]);
    expect([...out.slice(72)]).toEqual([7, 8, 9]);
  });
  it('nothing known leaves everything as it was', () => {
    const from = nearestKnown(new Uint8Array(9), 3);
    expect([...from]).toEqual(new Array(9).fill(-1));
    expect([...spread(Uint8Array.from([1, 2, 3, 4, 5, 6, 7, 8, 9]), 1, from)]).toEqual([1, 2, 3, 4, 5, 6, 7, 8, 9]);
  });
});
