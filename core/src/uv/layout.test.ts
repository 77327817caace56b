import { describe, expect, it } from 'vitest';
import { cube, sheet } from '../../test/shapes';
import { islandEdges, layoutPng, layoutSvg } from '../drawing/layout';
import { decodePng } from '../image/png';
import { IDENTITY } from '../maths/mat4';
import { random } from '../maths/random';
import { edgesOf } from '../mesh/connectivity';
import { attribute, withAttribute } from '../mesh/polymesh';
import { unwrap } from '../pipeline/unwrap';
import { ChartMaker, diskRim } from './flatten/chart';
import { measureLayout } from './measure';
import { drawMask, Grid } from './pack/mask';
import { faceGraph, halve, regions } from './seams/regions';

/** Some faces of a mesh as a chart, nothing cut. */
const chart = (mesh: ReturnType<typeof cube>, faces: number[]) =>
  new ChartMaker(mesh, edgesOf(mesh)).make(faces, new Uint8Array(edgesOf(mesh).count));

describe('seams', () => {
  it('a cube is six regions at its hard edges and one without them', () => {
    expect(regions(cube(10), faceGraph(cube(10), 50))).toHaveLength(6);
    expect(regions(cube(10), faceGraph(cube(10), 170))).toHaveLength(1);
  });
  it('a border between regions or materials is a seam', () => {
    const region = withAttribute(
      sheet(4, 10, () => 0),
      { name: 'region', domain: 'face', size: 1, data: Int32Array.from({ length: 16 }, (_, f) => (f % 4 < 2 ? 0 : 1)) },
    );
    expect(regions(region, faceGraph(region, 170))).toHaveLength(2);
  });
  it('halving splits a long sheet across its middle into two connected halves of about the same size', () => {
    const m = sheet(10, 30, () => 0);
    const graph = faceGraph(m, 170);
    const [a, b] = halve(
      m,
      graph,
      Array.from({ length: 100 }, (_, i) => i),
    );
    expect(a.length + b.length).toBe(100);
    expect(Math.abs(a.length - b.length)).toBeLessThan(30);
    for (const half of [a, b]) expect(regions(m, graph, half)).toHaveLength(1);
  });
  it('knows a disk from what is none', () => {
    const m = sheet(3, 10, () => 0);
    const all = Array.from({ length: 9 }, (_, i) => i);
    const without = (...left: number[]) =>
      chart(
        m,
        all.filter((f) => !left.includes(f)),
      );
    expect(diskRim(chart(m, all))).toHaveLength(12);
    // Without the middle face it is a ring; without two opposite corners still a disk; a closed cube has no rim at all.
    expect(diskRim(without(4))).toBeNull();
    expect(diskRim(without(0, 8))).not.toBeNull();
    expect(diskRim(chart(cube(1), [0, 1, 2, 3, 4, 5]))).toBeNull();
    // Two faces that meet in one point only: each keeps its own corner there.
    expect(chart(m, [0, 4]).points.length / 3).toBe(8);
    expect(diskRim(chart(m, [0, 4]))).toBeNull();
  });
});

describe('packing masks', () => {
  const square = (w: number, h: number) => Float64Array.from([0, 0, w, 0, w, h, 0, 0, w, h, 0, h]);
  it('cover every cell a triangle touches, grown by what is asked', () => {
    const m = drawMask(square(10, 4), 0.5);
    expect([m.width, m.height]).toEqual([10, 4]);
    const grown = drawMask(square(10, 4), 2);
    expect([grown.width, grown.height]).toEqual([14, 8]);
    expect([...grown.runStart]).toEqual(new Array(8).fill(0));
    expect([...grown.runLength]).toEqual(new Array(8).fill(14));
  });
  it('never lie on each other: random shapes until the tile is full, checked cell by cell', () => {
    const next = random(3);
    const grid = new Grid(64);
    const taken = new Uint8Array(64 * 64);
    let placed = 0;
    for (let i = 0; i < 200; i++) {
      const [w, h] = [1 + 14 * next(), 1 + 9 * next()];
      const shape = next() < 0.5 ? square(w, h) : Float64Array.from([0, 0, w, 0, w * next(), h]);
      const mask = drawMask(shape, 1);
      const at = grid.find(mask, 64);
      if (!at) continue;
      grid.place(mask, at[0], at[1]);
      placed++;
      for (let y = 0; y < mask.height; y++)
        for (let x = 0; x < mask.width; x++)
          if (mask.bits[y * mask.words + (x >> 5)] & (1 << (x & 31))) {
            const cell = (at[1] + y) * 64 + at[0] + x;
            expect(taken[cell]).toBe(0);
            taken[cell] = 1;
          }
    }
    expect(placed).toBeGreaterThan(20);
  });
  it('finds the lowest free place that brute force finds', () => {
    const next = random(8);
    for (let round = 0; round < 10; round++) {
      const grid = new Grid(40);
      const taken: boolean[][] = Array.from({ length: 40 }, () => new Array<boolean>(40).fill(false));
      for (let i = 0; i < 12; i++) {
        const mask = drawMask(square(2 + 10 * next(), 1 + 6 * next()), 0.5);
        const fits = (x: number, y: number) => {
          for (let r = 0; r < mask.height; r++)
            for (let c = 0; c < mask.width; c++)
              if (mask.bits[r * mask.words + (c >> 5)] & (1 << (c & 31)) && taken[y + r]?.[x + c] !== false) return false;
          return true;
        };
        let expected: [number, number] | null = null;
        for (let y = 0; y + mask.height <= 40 && !expected; y++)
          for (let x = 0; x + mask.width <= 40 && !expected; x++) if (fits(x, y)) expected = [x, y];
        const found = grid.find(mask, 40);
        expect(found).toEqual(expected);
        if (!found) continue;
        grid.place(mask, found[0], found[1]);
        for (let r = 0; r < mask.height; r++)
          for (let c = 0; c < mask.width; c++)
            if (mask.bits[r * mask.words + (c >> 5)] & (1 << (c & 31))) taken[found[1] + r][found[0] + c] = true;
      }
    }
  });
});

describe('measuring a layout', () => {
  const laidBy = (move: (uv: Float64Array) => void) => {
    const m = sheet(2, 10, () => 0);
    const uv = Float64Array.from(attribute(m, 'uv')?.data ?? []);
    for (let i = 0; i < uv.length; i++) uv[i] = 0.25 + uv[i] * 0.5;
    move(uv);
    return withAttribute(m, { name: 'uv', domain: 'corner', size: 2, data: uv });
  };
  it('a quarter of the tile covered, 12.8 px/cm at 256 px over 100 mm²', () => {
    const f = measureLayout([{ id: 'a', mesh: laidBy(() => undefined) }], 256);
    expect(f.coverage).toBeCloseTo(0.25, 6);
    // 128 px over 10 mm.
    expect(f.density).toBeCloseTo(128, 6);
    expect(f.stretchL2).toBeCloseTo(1, 9);
    expect([f.folds, f.overlapTexels, f.border]).toEqual([0, 0, 64]);
  });
  it('counts folds and texels claimed twice', () => {
    const folded = measureLayout(
      [
        {
          id: 'a',
          mesh: laidBy((uv) => {
            for (let c = 0; c < 4; c++) uv[2 * c] = 0.75 - uv[2 * c] + 0.25;
          }),
        },
      ],
      128,
    );
    expect(folded.folds).toBe(2);
    const twice = measureLayout(
      [
        { id: 'a', mesh: laidBy(() => undefined) },
        { id: 'b', mesh: laidBy(() => undefined) },
      ],
      128,
    );
    expect(twice.overlapTexels).toBe(64 * 64);
  });
  it('measures the gap between islands in texels', () => {
    for (const gap of [1, 3, 8, 11]) {
      const right = laidBy((uv) => {
        for (let i = 0; i < uv.length; i += 2) uv[i] = 0.25 + (uv[i] - 0.25) / 4;
      });
      const left = laidBy((uv) => {
        for (let i = 0; i < uv.length; i += 2) uv[i] = 0.25 + (uv[i] - 0.25) / 4 + 0.125 + gap / 256;
      });
      expect(
        measureLayout(
          [
            { id: 'a', mesh: right },
            { id: 'b', mesh: left },
          ],
          256,
        ).gutter,
      ).toBe(gap);
    }
  });
});

describe('the layout as a picture', () => {
  const laid = unwrap([{ id: 'c', name: 'Crate & lid', mesh: cube(10), placements: [IDENTITY] }], {
    size: 256,
    padding: 8,
    seamAngle: 50,
    rotate: true,
    weights: {},
    regions: {},
  });
  it('PNG: islands painted, the rest clear, with as much painted as is covered', () => {
    const p = decodePng(layoutPng(laid.parts, 256));
    let painted = 0;
    for (let i = 3; i < p.data.length; i += 4) if (p.data[i] === 255) painted++;
    expect(painted / 65536).toBeGreaterThan(laid.figures.coverage * 0.98);
    expect(painted / 65536).toBeLessThan(laid.figures.coverage * 1.15);
  });
  it('SVG: a group for each part, in pixels, names quoted', () => {
    const svg = layoutSvg(laid.parts, 256);
    expect(svg).toContain('viewBox="0 0 256 256"');
    expect(svg).toContain('id="Crate &#38; lid"');
    expect((svg.match(/M[\d. L]+Z/g) ?? []).length).toBe(6);
  });
  it('edges of islands: four for each face of a cube, none inside a sheet', () => {
    expect(islandEdges(laid.parts[0].mesh).length / 4).toBe(24);
    expect(islandEdges(sheet(3, 10, () => 0)).length / 4).toBe(12);
  });
});
