import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type Extent, type Frame, fittedFrame, fromPlate, nearerFrame, type Size, slidFrame, toPlate } from './frame';

const size: Size = { width: 600, height: 500 };
const anyFrame = fc.record<Frame>({
  x: fc.double({ min: -500, max: 500, noNaN: true }),
  y: fc.double({ min: -500, max: 500, noNaN: true }),
  scale: fc.double({ min: 0.05, max: 200, noNaN: true }),
});
const anyPlace = fc.tuple(fc.double({ min: 0, max: 600, noNaN: true }), fc.double({ min: 0, max: 500, noNaN: true }));
/** Within a millionth of what it should be, whatever its size. */
const near = (a: number, b: number, by = 1) => expect(Math.abs(a - b)).toBeLessThan(1e-6 * Math.max(by, Math.abs(a), Math.abs(b)));

describe('a drawing on its plate', () => {
  it('shows all of what is drawn, whatever its shape, within the plate', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -300, max: 300, noNaN: true }),
        fc.double({ min: -300, max: 300, noNaN: true }),
        fc.double({ min: 1, max: 2000, noNaN: true }),
        fc.double({ min: 1, max: 2000, noNaN: true }),
        (x0, y0, w, h) => {
          const extent: Extent = { x0, x1: x0 + w, y0, y1: y0 + h };
          const frame = fittedFrame(extent, size);
          for (const p of [
            [extent.x0, extent.y0],
            [extent.x1, extent.y1],
          ] as const) {
            const [x, y] = toPlate(frame, size, p);
            expect(x).toBeGreaterThan(0);
            expect(x).toBeLessThan(size.width);
            expect(y).toBeGreaterThan(0);
            expect(y).toBeLessThan(size.height);
          }
        },
      ),
    );
  });
  it('stands upright and to scale: what is higher up is nearer to the top', () => {
    const frame = fittedFrame({ x0: 0, x1: 40, y0: 0, y1: 40 }, size);
    const [low, high] = [toPlate(frame, size, [0, 0]), toPlate(frame, size, [0, 40])];
    expect(high[1]).toBeLessThan(low[1]);
    near(low[1] - high[1], 40 * frame.scale);
  });
  it('a point, and a plate smaller than its margins, still have a frame that can be drawn in', () => {
    for (const s of [size, { width: 0, height: 0 }, { width: 120, height: 80 }]) {
      const frame = fittedFrame({ x0: 5, x1: 5, y0: 5, y1: 5 }, s);
      expect(Number.isFinite(frame.x) && Number.isFinite(frame.y)).toBe(true);
      expect(frame.scale).toBeGreaterThan(0);
    }
  });
  it('from mm to px and back is where it was', () => {
    fc.assert(
      fc.property(anyFrame, anyPlace, (frame, at) => {
        const back = toPlate(frame, size, fromPlate(frame, size, at));
        near(back[0], at[0], 1e3);
        near(back[1], at[1], 1e3);
      }),
    );
  });
  it('nearer and farther keep what is under the pointer, within bounds, and there and back is where it was', () => {
    fc.assert(
      fc.property(anyFrame, anyPlace, fc.integer({ min: -1200, max: 1200 }), (frame, at, turn) => {
        const next = nearerFrame(frame, size, at, turn);
        const [a, b] = [fromPlate(frame, size, at), fromPlate(next, size, at)];
        near(a[0], b[0], 1e3);
        near(a[1], b[1], 1e3);
        expect(next.scale).toBeGreaterThanOrEqual(0.02);
        expect(next.scale).toBeLessThanOrEqual(400);
        if (turn < 0) expect(next.scale).toBeGreaterThanOrEqual(frame.scale);
        if (next.scale > 0.02 && next.scale < 400) near(nearerFrame(next, size, at, -turn).scale, frame.scale);
      }),
    );
  });
  it('sliding takes what is drawn along with the hand', () => {
    fc.assert(
      fc.property(anyFrame, anyPlace, anyPlace, (frame, from, to) => {
        const held = fromPlate(frame, size, from);
        const [x, y] = toPlate(slidFrame(frame, [to[0] - from[0], to[1] - from[1]]), size, held);
        near(x, to[0], 1e3);
        near(y, to[1], 1e3);
      }),
    );
  });
});
