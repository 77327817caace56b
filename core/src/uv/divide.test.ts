import { describe, expect, it } from 'vitest';
import { fromTriangles } from '../../test/shapes';
import { IDENTITY } from '../maths/mat4';
import { random } from '../maths/random';
import { attribute, faceCount, makeMesh, type PolyMesh } from '../mesh/polymesh';
import { type UnwrapSettings, unwrap } from '../pipeline/unwrap';
import { drawMask } from './pack/mask';

const settings: UnwrapSettings = { size: 512, padding: 4, seamAngle: 50, rotate: true, weights: {}, regions: {} };

/** A flat strip of `n` quads, 10 wide and 10 long each. */
function strip(n: number): PolyMesh {
  const positions: number[] = [];
  for (let i = 0; i <= n; i++) positions.push(10 * i, 0, 0, 10 * i, 10, 0);
  const faceVert = Array.from({ length: n }, (_, i) => [2 * i, 2 * i + 2, 2 * i + 3, 2 * i + 1]).flat();
  return makeMesh({ positions, faceVert, faceStart: Array.from({ length: n + 1 }, (_, i) => 4 * i) });
}
const laid = (mesh: PolyMesh, more: Partial<UnwrapSettings> = {}) =>
  unwrap([{ id: 'strip', name: 'strip', mesh, placements: [IDENTITY] }], { ...settings, ...more });

describe('long islands', () => {
  it('are folded into rows along edges they have: a strip of 40 squares fills the tile in about √40 of them', () => {
    const { figures, parts } = laid(strip(40));
    const whole = laid(strip(40), { whole: true }).figures;
    expect(whole.islands).toBe(1);
    // In one piece it can be no denser than the tile is long.
    expect(whole.coverage).toBeLessThan(0.03);
    expect(figures.coverage).toBeGreaterThan(0.6);
    expect(figures.islands).toBeGreaterThan(4);
    expect(figures.islands).toBeLessThan(12);
    expect([figures.folds, figures.overlapTexels]).toEqual([0, 0]);
    expect(figures.gutter).toBeGreaterThanOrEqual(4);
    // Each piece hangs together: neighbours along the strip, so islands are runs of faces.
    const island = attribute(parts[0].mesh, 'island', 'face')?.data as Int32Array;
    let changes = 0;
    for (let f = 1; f < faceCount(parts[0].mesh); f++) if (island[f] !== island[f - 1]) changes++;
    expect(changes).toBe(figures.islands - 1);
  });
  it('stay in one piece where they carry print or are marked as a region', () => {
    expect(laid(strip(40), { wholeParts: ['strip'] }).figures.islands).toBe(1);
    const marked = { ...strip(40), attributes: [{ name: 'region', domain: 'face' as const, size: 1, data: new Int32Array(40).fill(1) }] };
    expect(laid(marked).figures.islands).toBe(1);
  });
  it('and those without an edge to be cut along stay as they are', () => {
    const { figures } = laid(fromTriangles([0, 0, 0, 400, 0, 0, 400, 10, 0, 0, 10, 0], [0, 1, 2, 0, 2, 3]));
    expect(figures.islands).toBe(1);
  });
  it('a square is never cut for the sake of the tile', () => {
    expect(laid(strip(1)).figures.islands).toBe(1);
  });
});

describe('masks', () => {
  it('row by row they are what every cell says by itself: within reach of the triangle along the axes', () => {
    const next = random(12);
    const wrong: number[][] = [];
    let asked = 0;
    for (let round = 0; round < 200; round++) {
      const p = Float64Array.from({ length: 6 }, () => 90 * next());
      const reach = 0.5 + 4 * next();
      const mask = drawMask(p, reach);
      const [ox, oy] = mask.offset;
      const [a, b, c] = [0, 2, 4].map((k) => [p[k] + ox, p[k + 1] + oy]);
      const turn = Math.sign((b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]));
      for (let y = 0; y < mask.height; y++)
        for (let x = 0; x < mask.width; x++) {
          const at = [x + 0.5, y + 0.5];
          // Separating axes: the two of the grid, and the normals of the sides.
          let least = Infinity;
          for (const [axis, m] of at.entries()) {
            const all = [a[axis], b[axis], c[axis]];
            least = Math.min(least, m - Math.min(...all) + reach, Math.max(...all) + reach - m);
          }
          for (const [s, e] of [
            [a, b],
            [b, c],
            [c, a],
          ]) {
            const n = [-turn * (e[1] - s[1]), turn * (e[0] - s[0])];
            const depth = n[0] * (at[0] - s[0]) + n[1] * (at[1] - s[1]) + reach * (Math.abs(n[0]) + Math.abs(n[1]));
            least = Math.min(least, depth / Math.hypot(...n));
          }
          if (Math.abs(least) < 1e-6) continue;
          asked++;
          if (((mask.bits[y * mask.words + (x >> 5)] & (1 << (x & 31))) !== 0) !== least > 0) wrong.push([round, x, y]);
        }
    }
    expect(wrong).toEqual([]);
    expect(asked).toBeGreaterThan(100_000);
  });
});
