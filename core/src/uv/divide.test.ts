import { describe, expect, it } from 'vitest';
import { fromTriangles } from '../../test/shapes';
import { IDENTITY } from '../maths/mat4';
import { random } from '../maths/random';
import { attribute, faceCount, makeMesh, type PolyMesh } from '../mesh/polymesh';
import { type UnwrapSettings, unwrap } from '../pipeline/unwrap';
import { drawMask, drawRim, Grid, type Mask, reversed } from './pack/mask';
import { shapeOf } from './pack/shape';

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

describe('the mask of a rim', () => {
  const at = (m: Mask, x: number, y: number) => (m.bits[y * m.words + (x >> 5)] >>> (x & 31)) & 1;
  const cells = (m: Mask) => Array.from({ length: m.width * m.height }, (_, i) => at(m, i % m.width, Math.floor(i / m.width)));
  /** Triangles round a middle, some of them left out; turned over when asked. */
  const fan = (next: () => number, over: boolean) => {
    const n = 5 + Math.floor(20 * next());
    const middle = [60 + 20 * next(), 60 + 20 * next()];
    const rim = Array.from({ length: n }, (_, i) => {
      const [a, r] = [(2 * Math.PI * i) / n, 8 + 40 * next()];
      return [middle[0] + r * Math.cos(a), middle[1] + r * Math.sin(a)];
    });
    return Float64Array.from(
      rim.flatMap((p, i) => {
        const q = rim[(i + 1) % n];
        return next() < 0.15 ? [] : over && next() < 0.5 ? [...middle, ...q, ...p] : [...middle, ...p, ...q];
      }),
    );
  };

  it('is that of all its triangles, with holes, turned over and lying on each other', () => {
    const next = random(21);
    for (let round = 0; round < 200; round++) {
      const first = fan(next, round % 3 === 1);
      const triangles = round % 4 === 3 ? Float64Array.from([...first, ...fan(next, false)]) : first;
      const reach = 0.5 + 3 * next();
      const { rim } = shapeOf(triangles);
      const [whole, own] = [drawMask(triangles, reach), drawRim(rim, reach)];
      expect(own.offset).toEqual(whole.offset);
      expect(cells(own)).toEqual(cells(whole));
      expect([...own.runStart, ...own.runLength]).toEqual([...whole.runStart, ...whole.runLength]);
    }
  });

  it('takes as much to draw as it is long: sides that triangles share are none of it', () => {
    const grid = Array.from({ length: 400 }, (_, i) => [i % 20, Math.floor(i / 20)]).flatMap(([x, y]) => [
      ...[x, y, x + 1, y, x + 1, y + 1],
      ...[x, y, x + 1, y + 1, x, y + 1],
    ]);
    const { rim, area } = shapeOf(Float64Array.from(grid));
    expect(rim.length / 4).toBe(80);
    expect(area).toBe(400);
  });

  it('half a turn on is the same cells backwards', () => {
    const next = random(8);
    for (let round = 0; round < 60; round++) {
      const mask = drawRim(shapeOf(fan(next, false)).rim, 0.5 + next());
      const back = reversed(mask);
      expect(cells(back)).toEqual(cells(mask).reverse());
      expect([...back.runLength]).toEqual([...mask.runLength].reverse());
      expect(reversed(back).key).toBe(mask.key);
      for (let y = 0; y < back.height; y++)
        if (back.runStart[y] >= 0 && back.runLength[y] > 0)
          expect([at(back, back.runStart[y], y), back.runStart[y] > 0 ? at(back, back.runStart[y] - 1, y) : 0]).toEqual([1, 0]);
    }
  });

  it('islands of one shape have the same cells wherever they lie, and are looked for from where the one before went', () => {
    const next = random(13);
    const shape = fan(next, false);
    const keys = [0, 1, 2, 3].map((i) => shapeOf(shape.map((v, k) => v + (k % 2 ? 7.3 * i : -3.9 * i))).mask(0.4, 1.3, [0.3], 0).key);
    expect(new Set(keys).size).toBe(1);
    // Found from there or from the beginning, places are the same.
    const [grid, again] = [new Grid(128, 256), new Grid(128, 256)];
    for (let i = 0; i < 40; i++) {
      const mask = shapeOf(shape).mask(0.2 + 0.1 * (i % 3), 1, [0.3, 1.9], i % 2);
      const [found, other] = [grid.find(mask, 256), again.find({ ...mask, key: i }, 256)];
      expect(found).toEqual(other);
      if (!found) continue;
      grid.place(mask, ...found);
      again.place(mask, ...found);
    }
  });
});

describe('turning', () => {
  it('freely is never less dense than in quarters, says what it won, and nothing lies on anything', () => {
    // A flat triangle of a third of a turn, twenty of them: they lie closer turned by thirds.
    const positions: number[] = [];
    for (let i = 0; i < 20; i++)
      for (let k = 0; k < 3; k++) positions.push(30 * i + 10 * Math.cos((2 * Math.PI * k) / 3), 0, -10 * Math.sin((2 * Math.PI * k) / 3));
    const mesh = makeMesh({
      positions,
      faceVert: positions.slice(0, 60).map((_, i) => i),
      faceStart: Array.from({ length: 21 }, (_, i) => 3 * i),
    });
    const [quarters, freely] = [laid(mesh).figures, laid(mesh, { rotate: 'freely' }).figures];
    expect(quarters.freelyWon).toBeUndefined();
    expect(freely.freelyWon).toBeGreaterThanOrEqual(0);
    expect(freely.density).toBeCloseTo(quarters.density * (1 + (freely.freelyWon ?? 0)), 0);
    expect([freely.overlapTexels, freely.folds]).toEqual([0, 0]);
    expect(freely.gutter).toBeGreaterThanOrEqual(4);
  });
});
