import { describe, expect, it } from 'vitest';
import { cube, sheet } from '../../test/shapes';
import { IDENTITY } from '../maths/mat4';
import type { PolyMesh } from '../mesh/polymesh';
import { type UnwrapSettings, unwrap } from '../pipeline/unwrap';
import { islandPlaces } from './hand/places';

const settings: UnwrapSettings = { size: 512, padding: 8, seamAngle: 50, rotate: true, weights: {}, regions: {} };
const part = (id: string, mesh: PolyMesh) => ({ id, name: id, mesh, placements: [IDENTITY] });
const dome = sheet(8, 30, (x, y) => 5 * Math.cos(x / 14) * Math.cos(y / 12));
const parts = [part('a', cube(12)), part('b', dome)];
const densities = (more: Partial<UnwrapSettings>, list = parts) => unwrap(list, { ...settings, ...more }).figures;

describe('a density that is set, px/cm', () => {
  it('is had to the figure, the rest fills what is left, whatever weights say (measured on the raster’s own areas)', () => {
    const free = densities({});
    for (const wanted of [20, 60, 110]) {
      const f = densities({ densities: { a: wanted } });
      expect(f.parts[0].density / wanted).toBeCloseTo(1, 3);
      expect(f).toMatchObject({ overlapTexels: 0, folds: 0 });
      expect(f.gutter).toBeGreaterThanOrEqual(8);
      // Less for the one is more for the other.
      expect(f.parts[1].density > free.density).toBe(wanted < free.density);
    }
    expect(densities({ densities: { a: 40 }, weights: { a: 3 } }).parts[0].density).toBeCloseTo(40, 1);
  });
  it('of all parts: nothing is scaled, the tile stays as empty as it is', () => {
    const f = densities({ densities: { a: 40, b: 50 } });
    expect(f.parts.map((p) => Math.round(p.density))).toEqual([40, 50]);
    expect(f.coverage).toBeCloseTo((864 * 16 + f.parts[1].areaMm2 * 25) / 512 ** 2, 1);
  });
  it('a region of half the weight has half of it', () => {
    const region = { name: 'region', domain: 'face' as const, size: 1, data: Int32Array.from([1, 0, 0, 0, 0, 0]) };
    const marked = [part('a', { ...cube(12), attributes: [...cube(12).attributes, region] })];
    const { parts: laid } = unwrap(marked, { ...settings, densities: { a: 40 }, regions: { a: [0.5] } });
    const scales = islandPlaces(laid).map((p) => p.place.scale * 5120);
    expect(scales.map((s) => Math.round(s)).sort((a, b) => a - b)).toEqual([20, 40, 40, 40, 40, 40]);
  });
  it('of a region is had to the figure, whatever its weight and its part’s density; its grain runs up the tile', () => {
    const region = { name: 'region', domain: 'face' as const, size: 1, data: Int32Array.from([1, 0, 2, 0, 0, 0]) };
    const marked = [part('a', { ...cube(12), attributes: [...cube(12).attributes, region] }), part('b', dome)];
    const scales = (more: Partial<UnwrapSettings>) =>
      islandPlaces(unwrap(marked, { ...settings, regions: { a: [0.5, 1] }, ...more }).parts.slice(0, 1))
        .map((p) => Math.round(p.place.scale * 5120))
        .sort((x, y) => x - y);
    expect(scales({ densities: { a: 40 }, regionWays: { a: [{ pxPerCm: 25 }, { pxPerCm: 70 }] } })).toEqual([25, 40, 40, 40, 40, 70]);
    const [least, ...rest] = scales({ regionWays: { a: [{ pxPerCm: 25 }, {}] } });
    expect(least).toBe(25);
    expect(new Set(rest).size).toBe(1);
    const grained = unwrap(marked, { ...settings, regionWays: { a: [{ grain: 'x' }, { grain: 'z' }] } }).figures.parts[0].grain;
    expect(grained?.worst).toBeLessThan(0.01);
  });
  it('that doesn’t fit is said in a sentence', () => {
    expect(() => densities({ densities: { a: 600 } })).toThrow(/^The parts whose density is set don’t fit the tile at 512 px/);
    expect(() => densities({ densities: { a: 175, b: 175 } })).toThrow(/^The parts whose density is set/);
  });
});
