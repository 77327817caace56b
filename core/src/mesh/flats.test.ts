import { describe, expect, it } from 'vitest';
import { cube, refined, sheet } from '../../test/shapes';
import { overDivided, withoutDivisions } from './flats';
import { isWatertight, volumeOf } from './measures';
import { attribute, makeMesh, type PolyMesh, triangleCount, withAttribute, withoutAttribute } from './polymesh';

const freed = (m: PolyMesh) => overDivided(m).reduce((n, f) => n + f.now - f.needed, 0);

describe('over-divided flats', () => {
  it('a cube of six faces has none; cut into 6 × n² it keeps its twelve triangles and its volume', () => {
    expect(overDivided(cube(10))).toEqual([]);
    for (const n of [2, 3, 5]) {
      const m = refined(cube(10), n);
      expect(triangleCount(m)).toBe(12 * n * n);
      const hard = withAttribute(m, {
        name: 'patch',
        domain: 'face',
        size: 1,
        data: Uint32Array.from({ length: 6 * n * n }, (_, f) => Math.floor(f / (n * n))),
      });
      expect(freed(hard)).toBe(12 * n * n - 12);
      const lean = withoutDivisions(hard);
      expect(triangleCount(lean)).toBe(12);
      expect(isWatertight(lean)).toBe(true);
      expect(volumeOf(lean)).toBeCloseTo(1000, 9);
    }
  });
  it('what bends is left, and the outline it shares with a flat stays closed', () => {
    const bare = withoutAttribute(
      withoutAttribute(
        sheet(12, 60, (x, z) => (x > 0 ? 0.02 * x * x * (1 + 0.01 * z) : 0)),
        'uv',
      ),
      'island',
    );
    const lean = withoutDivisions(bare);
    expect(triangleCount(lean)).toBeLessThan(triangleCount(bare));
    // The flat half has 6 × 12 quads; its outline has 12 + 1 corners where it meets the rows that bend, and its two far ones.
    expect(triangleCount(lean)).toBe(triangleCount(bare) - 2 * 6 * 12 + (13 + 2 - 2));
  });
  it('a layout that is not even over a flat keeps it; one that is stays where it was', () => {
    const m = sheet(6, 30, () => 0);
    expect(freed(m)).toBe(72 - 2);
    const lean = withoutDivisions(m);
    expect(triangleCount(lean)).toBe(2);
    expect([...(attribute(lean, 'uv')?.data ?? [])].sort()).toEqual([0, 0, 0, 0, 1, 1, 1, 1].sort());
    const uv = attribute(m, 'uv')?.data as Float64Array;
    const bent = withAttribute(m, { name: 'uv', domain: 'corner', size: 2, data: uv.map((x) => x * x) });
    expect(freed(bent)).toBe(0);
  });
  it('a window in a flat is kept', () => {
    const m = withoutAttribute(
      withoutAttribute(
        sheet(6, 30, () => 0),
        'uv',
      ),
      'island',
    );
    const middle = new Set([14, 15, 20, 21]);
    const faces = Array.from({ length: 36 }, (_, f) => f).filter((f) => !middle.has(f));
    const open = makeMesh({
      positions: m.positions,
      faceStart: faces.concat(0).map((_, i) => 4 * i),
      faceVert: faces.flatMap((f) => [...m.faceVert.slice(4 * f, 4 * f + 4)]),
    });
    // Eight corners and one hole: n − 2 + 2.
    expect(triangleCount(withoutDivisions(open))).toBe(8);
    expect(freed(open)).toBe(64 - 8);
  });
});
