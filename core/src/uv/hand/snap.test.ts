import { describe, expect, it } from 'vitest';
import { type IslandPlace, shifted } from './places';
import { ALIGNMENTS, type Alignment, alignedShifts, boxOf, brought, middleOf, snapped, snappedTurn, type TileBox } from './snap';

const box = (x0: number, y0: number, x1: number, y1: number): TileBox => ({ x0, y0, x1, y1 });

describe('where an island snaps to', () => {
  const [size, padding] = [1024, 16];
  const other = box(0.5, 0.5, 0.7, 0.7);
  const to = (x: number, y: number, near = 0.005) => snapped(box(0.1, 0.1, 0.2, 0.2), x, y, [other], size, padding, near);

  it('whole texels where nothing is near', () => {
    expect(to(0.01234, 0.2)).toEqual([Math.round(0.01234 * 1024) / 1024, Math.round(0.2 * 1024) / 1024]);
  });
  it('the wanted gap beside another one, in line with it, and from the tile’s edge by half the padding', () => {
    // Its right side 16 texels from the other’s left, its lower side on the other’s.
    const [x, y] = to(0.283, 0.402);
    expect(0.2 + x).toBeCloseTo(0.5 - 16 / 1024, 9);
    expect(0.1 + y).toBeCloseTo(0.5, 9);
    expect(0.1 + to(-0.09, 0)[0]).toBeCloseTo(8 / 1024, 9);
    expect(0.2 + to(0, 0.79)[1]).toBeCloseTo(1 - 8 / 1024, 9);
  });
  it('not to what lies elsewhere, nor when it is told not to', () => {
    expect(to(0.283, 0.0)[0]).toBeCloseTo(Math.round(0.283 * 1024) / 1024, 12);
    expect(to(0.283, 0.402, 0)).toEqual([Math.round(0.283 * 1024) / 1024, Math.round(0.402 * 1024) / 1024]);
  });
  it('turns near a quarter are one; others whole degrees, or steps of 15', () => {
    const turned = (degrees: number, steps: boolean): number => (snappedTurn((degrees * Math.PI) / 180, steps) * 180) / Math.PI;
    expect([88.4, -91.9, 1.2, 34.4, 177].map((d) => Math.round(turned(d, false)))).toEqual([90, -90, 0, 34, 177]);
    expect([34.4, 50, -68].map((d) => Math.round(turned(d, true)))).toEqual([30, 45, -75]);
  });
  it('boxes follow what is brought from place to place', () => {
    const from: IslandPlace = { part: 'p', from: [0, 0, 0], facing: [0, 0, 1], along: [1, 0, 0], at: [0.2, 0.2], angle: 0.3, scale: 0.01 };
    const square = [0.1, 0.1, 0.3, 0.1, 0.3, 0.2, 0.1, 0.2];
    const to = shifted(from, [0.2, 0.2], { x: 0.1, y: 0.05, turn: Math.PI / 2, scale: 2 });
    const b = boxOf(square, brought(from, to));
    // A quarter to the left about (0.2, 0.2), twice as large, moved: by hand.
    expect([b.x0, b.y0, b.x1, b.y1].map((v) => Number(v.toFixed(9)))).toEqual([0.3, 0.05, 0.5, 0.45]);
    expect(middleOf(b).map((v) => Number(v.toFixed(9)))).toEqual([0.4, 0.25]);
  });
});

describe('islands brought in line', () => {
  const boxes = [box(0.1, 0.2, 0.3, 0.3), box(0.5, 0.1, 0.6, 0.25), box(0.35, 0.6, 0.4, 0.9)];
  const size = 1024;
  const after = (how: Alignment, gap = 8) =>
    alignedShifts(boxes, how, gap, size).map(([x, y], i) => box(boxes[i].x0 + x, boxes[i].y0 + y, boxes[i].x1 + x, boxes[i].y1 + y));
  const texel = 0.5 / size + 1e-9;

  it('with the outermost of them, to the texel; the other way they stay', () => {
    for (const [how, side, at] of [
      ['left', 'x0', 0.1],
      ['right', 'x1', 0.6],
      ['top', 'y1', 0.9],
      ['bottom', 'y0', 0.1],
    ] as const) {
      for (const [i, b] of after(how).entries()) {
        expect(Math.abs(b[side] - at)).toBeLessThanOrEqual(texel);
        const other = side[0] === 'x' ? 'y0' : 'x0';
        expect(b[other]).toBe(boxes[i][other]);
      }
    }
  });

  it('next to each other in the order they lie, never nearer than is wanted and less than a texel farther', () => {
    const [a, c, b] = after('row', 12);
    expect(a.x0).toBe(0.1);
    for (const [left, right] of [
      [a, b],
      [b, c],
    ]) {
      expect((right.x0 - left.x1) * size).toBeGreaterThanOrEqual(12 - 1e-3);
      expect((right.x0 - left.x1) * size).toBeLessThan(13);
    }
    const column = after('column', 12);
    expect(column[1].y0).toBe(0.1);
    expect((column[0].y0 - column[1].y1) * size).toBeGreaterThanOrEqual(12 - 1e-3);
  });

  it('moves whole texels whatever is asked, and nothing where there is nothing', () => {
    for (const how of Object.keys(ALIGNMENTS) as Alignment[]) {
      for (const v of alignedShifts(boxes, how, 5, size).flat()) expect(v * size).toBeCloseTo(Math.round(v * size), 6);
      expect(alignedShifts([], how, 5, size)).toEqual([]);
    }
  });
});
