import { linearToSrgb } from '@wellmorph/core/image/srgb';
import type { View } from '@wellmorph/core/inspect/views';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { gradientOf, linear, rampOf } from '@/shared/ramp';
import { drawnView } from '@/workers/drawn';
import type { GpuPart } from '@/workers/protocol';

const scale = (kind: View['kind'], low = 0, high = 1) => ({ kind, low, high, unit: 'mm', words: '', parts: [] }) as unknown as View;
const hex = (c: readonly number[]) =>
  `#${c
    .map((x) =>
      Math.round(255 * linearToSrgb(x))
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')
    .toUpperCase()}`;
const SCALES = ['curvature', 'thickness', 'seen', 'chord'] as const;

describe('the colours of a view', () => {
  it('begin and end as the scale beside it says, and stay there beyond its ends', () => {
    for (const kind of SCALES) {
      const view = scale(kind, -2, 6);
      const stops = (gradientOf(view) as string).match(/#[0-9A-F]{6}/g) as string[];
      const ramp = rampOf(view);
      expect([hex(ramp(-2)), hex(ramp(6))], kind).toEqual([stops[0], stops[stops.length - 1]]);
      expect([ramp(-50), ramp(50)], kind).toEqual([ramp(-2), ramp(6)]);
      // Every stop of the scale is where it stands on it.
      for (const [i, stop] of stops.entries()) expect(hex(ramp(-2 + (8 * i) / (stops.length - 1))), kind).toBe(stop);
    }
  });
  it('never jump: a little more is a little of another colour', () => {
    fc.assert(
      fc.property(fc.constantFrom(...SCALES), fc.double({ min: 0, max: 0.999, noNaN: true }), (kind, t) => {
        const ramp = rampOf(scale(kind));
        const [a, b] = [ramp(t), ramp(t + 0.001)];
        for (let k = 0; k < 3; k++) {
          expect(Math.abs(a[k] - b[k])).toBeLessThan(0.01);
          expect(a[k]).toBeGreaterThanOrEqual(0);
          expect(a[k]).toBeLessThanOrEqual(1);
        }
      }),
    );
  });
  it('tell what can’t be said from every value, and a scale of no length from none', () => {
    for (const kind of SCALES) {
      const nothing = rampOf(scale(kind))(Number.NaN);
      expect(rampOf(scale(kind))(Number.POSITIVE_INFINITY)).toEqual(nothing);
      for (let t = 0; t <= 1; t += 0.05) expect(hex(rampOf(scale(kind))(t))).not.toBe(hex(nothing));
      expect(rampOf(scale(kind, 3, 3))(3).every(Number.isFinite)).toBe(true);
    }
  });
  it('of the flow of faces are three, and it has no scale', () => {
    const ramp = rampOf(scale('flow'));
    expect(new Set([3, 4, 5].map((n) => hex(ramp(n)))).size).toBe(3);
    expect(ramp(9)).toEqual(ramp(5));
    expect(gradientOf(scale('flow'))).toBeNull();
  });
  it('are light, as a renderer wants them: half a code is a fifth of the light (IEC 61966-2-1)', () => {
    expect(linear('#000000')).toEqual([0, 0, 0]);
    expect(linear('#FFFFFF')[0]).toBeCloseTo(1, 12);
    expect(linear('#808080')[1]).toBeCloseTo(0.2158605, 6);
  });
});

describe('a view as the plate draws it', () => {
  it('has triangles of their own, each corner with its place, its normal and its colour', () => {
    const square = {
      index: new Uint32Array([0, 1, 2, 0, 2, 3]),
      position: new Float32Array([0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0]),
      normal: new Float32Array([0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1]),
    } as GpuPart;
    const view = scale('thickness', 0, 1);
    const drawn = drawnView(square, new Float32Array([0, 0.5, 1, 0, 1, Number.NaN]), view);
    expect([...drawn.position.slice(9, 18)]).toEqual([0, 0, 0, 1, 1, 0, 0, 1, 0]);
    expect(drawn.normal.filter((_, i) => i % 3 === 2)).toEqual(new Float32Array(6).fill(1));
    const ramp = rampOf(view);
    for (const [i, v] of [0, 0.5, 1, 0, 1, Number.NaN].entries())
      expect([...drawn.colour.slice(3 * i, 3 * i + 3)]).toEqual(ramp(v).map((x) => Math.fround(x)));
    // What it was made from is as it was.
    expect(square.position).toHaveLength(12);
  });
});
