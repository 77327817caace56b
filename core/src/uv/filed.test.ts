import { describe, expect, it } from 'vitest';
import { cube } from '../../test/shapes';
import { IDENTITY } from '../maths/mat4';
import { attribute, type PolyMesh, withAttribute, withoutAttribute } from '../mesh/polymesh';
import type { Filed } from '../pipeline/document';
import { type UnwrapSettings, unwrap } from '../pipeline/unwrap';
import { islandPlaces, shifted, UNMOVED } from './hand/places';
import { measureLayout } from './measure';

const settings: UnwrapSettings = { size: 512, padding: 8, seamAngle: 50, rotate: true, weights: {}, regions: {} };
const uvOf = (mesh: PolyMesh) => attribute(mesh, 'uv', 'corner')?.data as Float64Array;
const withUv = (mesh: PolyMesh, uv: ArrayLike<number>): PolyMesh =>
  withAttribute(withoutAttribute(mesh, 'island'), { name: 'uv', domain: 'corner', size: 2, data: Float64Array.from(uv) });

/**
 * A cube as a file has it: sides in squares of a tenth of the tile, a fifth apart, the second mirrored, the third on the first, the fourth
 * twice as wide.
 */
const file = withUv(
  cube(10),
  Array.from({ length: 6 }, (_, f) => {
    const x = f === 2 ? 0.1 : 0.1 + 0.15 * f;
    const [w, h] = [f === 1 ? -0.1 : f === 3 ? 0.12 : 0.1, f === 3 ? 0.06 : 0.1];
    const left = w < 0 ? x - w : x;
    return [left, 0.2, left + w, 0.2, left + w, 0.2 + h, left, 0.2 + h];
  }).flat(),
);
const laid = (filed: Filed, more: Partial<UnwrapSettings> = {}) =>
  unwrap([{ id: 'p', name: 'p', mesh: file, placements: [IDENTITY] }], { ...settings, filed, ...more });
/** Side of each face in the layout, u and v. */
const sides = (mesh: PolyMesh) =>
  Array.from({ length: 6 }, (_, f) => {
    const uv = uvOf(mesh);
    const side = (a: number, b: number) => Math.hypot(uv[2 * a] - uv[2 * b], uv[2 * a + 1] - uv[2 * b + 1]);
    return [side(4 * f, 4 * f + 1), side(4 * f + 1, 4 * f + 2)];
  });

describe('a layout that a file brought', () => {
  it('is kept as it is, mirrored and on each other, and measured so', () => {
    const made = laid('kept');
    const [was, is] = [uvOf(file), uvOf(made.parts[0].mesh)];
    for (let i = 0; i < was.length; i++) expect(is[i]).toBeCloseTo(was[i], 6);
    // By hand: one square on another is 51 × 51 texels; the mirrored one lies face down as a whole, so nothing is folded.
    expect(made.figures.overlapTexels).toBeGreaterThan(2500);
    expect(made.figures).toMatchObject({ islands: 6, folds: 0, mirrored: 1 });
    const { seams } = made.figures;
    expect(made.figures).toEqual({ ...measureLayout(made.parts, 512, [new Uint8Array(6)]), methods: { kept: 6 }, seams });
  });
  it('parts that have none are packed beside it', () => {
    const bare = { id: 'q', name: 'q', mesh: cube(10), placements: [IDENTITY] };
    const made = unwrap([{ id: 'p', name: 'p', mesh: file, placements: [IDENTITY] }, bare], { ...settings, filed: 'kept' });
    expect(uvOf(made.parts[0].mesh)[0]).toBeCloseTo(0.1, 6);
    expect(measureLayout([made.parts[1]], 512).overlapTexels).toBe(0);
    expect(made.figures.overlapTexels).toBe(laid('kept').figures.overlapTexels);
    // No denser than the middle one of what is kept: 0.1 of the tile for 10 mm.
    expect(sides(made.parts[1].mesh)[0][0]).toBeCloseTo(0.1, 3);
  });
  it('is packed again: its islands as they were cut, each at its true size, none on another', () => {
    const made = laid('packed');
    expect(made.figures).toMatchObject({ islands: 6, overlapTexels: 0, folds: 0 });
    const ratios = sides(made.parts[0].mesh).map(([a, b]) => Math.max(a, b) / Math.min(a, b));
    expect(ratios.map((x) => Number(x.toFixed(3)))).toEqual([1, 1, 1, 2, 1, 1]);
  });
  it('is laid anew where it is stretched beyond the limit, and only there', () => {
    const made = laid('mended');
    const ratios = sides(made.parts[0].mesh).map(([a, b]) => Math.max(a, b) / Math.min(a, b));
    expect(ratios.map((x) => Number(x.toFixed(3)))).toEqual([1, 1, 1, 1, 1, 1]);
    // Stretched by 2 : 1 at equal area, L² is √((2 + ½) / 2) = 1.118 (Sander 2001, by hand): within a limit above that it stays.
    const kept = sides(laid('mended', { stretchLimit: 1.12 }).parts[0].mesh)[3];
    expect(Math.max(...kept) / Math.min(...kept)).toBeCloseTo(2, 3);
    expect(laid('mended', { stretchLimit: 1.117 }).figures.stretchL2).toBeCloseTo(1, 6);
  });
  it('is moved by hand from where it lies, a mirrored island as one', () => {
    const made = laid('kept');
    const places = islandPlaces(made.parts).map((p) => p.place);
    expect(places.map((p) => p.mirrored === true)).toEqual([false, true, false, false, false, false]);
    const moved = places.map((p, i) => (i === 1 || i === 2 ? shifted(p, p.at, { ...UNMOVED, y: 0.3 }) : p));
    const again = laid('kept', { places: moved });
    const [a, b] = [uvOf(made.parts[0].mesh), uvOf(again.parts[0].mesh)];
    for (let c = 0; c < 24; c++) {
      expect(b[2 * c]).toBeCloseTo(a[2 * c], 5);
      expect(b[2 * c + 1]).toBeCloseTo(a[2 * c + 1] + (c >= 4 && c < 12 ? 0.3 : 0), 5);
    }
    expect(again.figures).toMatchObject({ overlapTexels: 0, placed: 6 });
  });
  it('a seam drawn on it, or weights of its regions, can’t be had as it lies: it is packed again', () => {
    const seam = withAttribute(file, { name: 'seam', domain: 'corner', size: 1, data: new Uint8Array(24) });
    const made = unwrap([{ id: 'p', name: 'p', mesh: seam, placements: [IDENTITY] }], { ...settings, filed: 'kept' });
    expect(made.figures).toMatchObject({ islands: 6, overlapTexels: 0 });
    expect(laid('kept', { regions: { p: [1, 2] } }).figures.overlapTexels).toBe(0);
    expect(laid('kept', { regions: { p: [1, 1] } }).figures.overlapTexels).toBeGreaterThan(0);
  });
});
