import { describe, expect, it } from 'vitest';
import { cube } from '../../test/shapes';
import { eulerCharacteristic, isWatertight, volumeOf } from './measures';
import { attribute, cornerCount, faceCount, type PolyMesh, vertexCount, withAttribute } from './polymesh';
import { subdivide } from './subdivide';

const levels = (mesh: PolyMesh, n: number, smooth = true) => {
  let m = mesh;
  for (let i = 0; i < n; i++) m = subdivide(m, { smooth });
  return m;
};
const creased = (mesh: PolyMesh, sharpness: number) =>
  withAttribute(mesh, { name: 'crease', domain: 'corner', size: 1, data: new Float64Array(cornerCount(mesh)).fill(sharpness) });

describe('subdivision', () => {
  it('of a cube has 6·4ⁿ + 2 vertices and 6·4ⁿ quads (Catmull & Clark 1978)', () => {
    for (const n of [1, 2, 3, 4]) {
      const m = levels(cube(10), n);
      expect(vertexCount(m)).toBe(6 * 4 ** n + 2);
      expect(faceCount(m)).toBe(6 * 4 ** n);
      expect(isWatertight(m)).toBe(true);
      expect(eulerCharacteristic(m)).toBe(2);
    }
  });
  it('moves a cube’s corner to 5/9 of the way out, and its limit is n/(n + 5)·(…) by Halstead, Kass & DeRose 1993', () => {
    const s = cube(2, [0, -1, 0]);
    const first = subdivide(s);
    // (Q + 2R + (n − 3)S)/n: Q = 1/3·(1,1,1), R = 2/3·(1,1,1), n = 3.
    expect(Math.abs(first.positions[0])).toBeCloseTo((1 / 3 + 4 / 3) / 3, 12);
    // Limit of a vertex of valence n: (n²·v + 4·Σe + Σf)/(n(n + 5)), e and f the edge and face points of one level.
    const v = 5 / 9;
    const edge = [0.75, 0.75, 0];
    const face = [1, 0, 0];
    const x = (9 * v + 4 * (edge[0] + edge[0] + edge[2]) + (face[0] + face[1] + face[1])) / (3 * 8);
    const deep = levels(s, 6);
    expect(Math.abs(deep.positions[0])).toBeCloseTo(x, 3);
  });
  it('without smoothing nothing moves', () => {
    expect(volumeOf(levels(cube(10), 3, false))).toBeCloseTo(1000, 9);
  });
  it('wholly creased it stays a cube, for as many levels as the crease is sharp', () => {
    expect(volumeOf(levels(creased(cube(10), 10), 3))).toBeCloseTo(1000, 9);
    const half = volumeOf(levels(creased(cube(10), 1), 3));
    expect(half).toBeGreaterThan(volumeOf(levels(cube(10), 3)));
    expect(half).toBeLessThan(1000);
  });
  it('an open rim is a cubic B-spline: its corner moves to (6v + a + b)/8', () => {
    const m = cube(2, [0, -1, 0]);
    const open: PolyMesh = {
      ...m,
      faceStart: m.faceStart.slice(0, 6),
      faceVert: m.faceVert.slice(0, 20),
      triangles: m.triangles.slice(0, 30),
      triangleFace: m.triangleFace.slice(0, 10),
    };
    const next = subdivide(open);
    // The last face was x = −1: its corners now stand on a rim.
    const v = [m.positions[0], m.positions[1], m.positions[2]];
    const [a, b] = [
      [-1, 1, -1],
      [-1, -1, 1],
    ];
    for (let k = 0; k < 3; k++) expect(next.positions[k]).toBeCloseTo((6 * v[k] + a[k] + b[k]) / 8, 12);
  });
  it('carries coordinates along the faces and marks along the edges', () => {
    const m = cube(10);
    const uv = Float64Array.from({ length: 2 * cornerCount(m) }, (_, i) => [0, 0, 1, 0, 1, 1, 0, 1][i % 8]);
    const hard = new Uint8Array(cornerCount(m));
    hard[0] = 1;
    const out = subdivide(
      withAttribute(withAttribute(m, { name: 'patchUv', domain: 'corner', size: 2, data: uv }), {
        name: 'hard',
        domain: 'corner',
        size: 1,
        data: hard,
      }),
    );
    const carried = attribute(out, 'patchUv')?.data ?? [];
    expect([...carried.slice(0, 8)]).toEqual([0, 0, 0.5, 0, 0.5, 0.5, 0, 0.5]);
    const marks = attribute(out, 'hard')?.data ?? [];
    expect([...marks].filter((x) => x === 1)).toHaveLength(2);
    expect(marks[0]).toBe(1);
  });
});
