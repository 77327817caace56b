import { describe, expect, it } from 'vitest';
import { cube, sheet } from '../../test/shapes';
import { idleLoops, withoutLoops } from './idle';
import { areaOf, isWatertight, volumeOf } from './measures';
import { faceCount, type PolyMesh } from './polymesh';
import { subdivide } from './subdivide';

describe('idle loops', () => {
  it('a divided cube is six faces again, and nothing moved', () => {
    const m = subdivide(subdivide(cube(20), { smooth: false }), { smooth: false });
    const loops = idleLoops(m, 1e-6);
    const lean = withoutLoops(m, loops);
    expect(faceCount(lean)).toBe(6);
    expect(volumeOf(lean)).toBeCloseTo(8000, 9);
    expect(isWatertight(lean)).toBe(true);
    expect(loops.reduce((n, l) => n + l.triangles, 0)).toBeGreaterThan(0);
  });
  it('keeps the loops that bear a curve, and takes those of its flat part, rims included', () => {
    // Flat for x < 0, a parabola beyond.
    const m = sheet(16, 32, (x) => (x > 0 ? x * x * 0.02 : 0));
    const lean = withoutLoops(m, idleLoops(m, 1e-3));
    expect(areaOf(lean)).toBeCloseTo(areaOf(m), 3);
    // Rows along z are straight: one is left; columns: one over the flat half, eight over the curve.
    expect(faceCount(lean)).toBe(1 + 8);
  });
  it('what goes together moves the surface no more than said', () => {
    const round = (n: number): PolyMesh => sheet(n, 40, (x) => Math.sqrt(60 * 60 - x * x));
    const m = round(40);
    const lean = withoutLoops(m, idleLoops(m, 0.05));
    expect(faceCount(lean)).toBeLessThan(20);
    // Sagitta of the widest chord left: its ends lie on the cylinder.
    const xs = [
      ...new Set(
        Array.from(lean.positions)
          .filter((_, i) => i % 3 === 0)
          .map((x) => Math.round(x * 1e6) / 1e6),
      ),
    ].sort((a, b) => a - b);
    for (let i = 1; i < xs.length; i++) {
      const [a, b] = [xs[i - 1], xs[i]];
      const [ya, yb] = [a, b].map((x) => Math.sqrt(3600 - x * x));
      for (let k = 1; k < 40; k++) {
        const x = -20 + k;
        if (x <= a || x >= b) continue;
        const t = (x - a) / (b - a);
        expect(Math.sqrt(3600 - x * x) - (ya + t * (yb - ya))).toBeLessThan(0.051);
      }
    }
  });
  it('leaves hard edges, seams and borders of patches', () => {
    const m = subdivide(cube(20), { smooth: false });
    const hard = {
      ...m,
      attributes: [...m.attributes, { name: 'hard', domain: 'corner' as const, size: 1, data: new Uint8Array(m.faceVert.length).fill(1) }],
    };
    expect(idleLoops(hard, 1)).toEqual([]);
  });
});
