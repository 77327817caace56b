import { describe, expect, it } from 'vitest';
import { stepOf } from '../../test/recipes';
import { isName } from '../units/formula';
import { capacityOf, fitCapacity } from './capacity';
import { awgMm, dimensionsOf, EVERYDAY_SIZES, ringMm } from './sizes';

describe('everyday sizes', () => {
  it('A4 is 210 × 297 mm, and every sheet of the series has sides as 1 : √2 (ISO 216:2007)', () => {
    const a4 = EVERYDAY_SIZES.find((s) => s.name === 'A4');
    expect(a4?.figures).toEqual({ width: 210, height: 297 });
    for (const s of EVERYDAY_SIZES.filter((x) => x.group === 'Paper'))
      expect(s.figures.height / s.figures.width).toBeCloseTo(Math.SQRT2, 1.5);
  });
  it('wire of gauge 0000 is 0.46 in and of gauge 36 is 0.005 in, as ASTM B258 sets them', () => {
    expect(awgMm(-3)).toBeCloseTo(0.46 * 25.4, 6);
    expect(awgMm(36)).toBeCloseTo(0.005 * 25.4, 9);
  });
  it('a ring’s size is its inside circumference: Ø = size / π (ISO 8653)', () => {
    expect(ringMm(54)).toBeCloseTo(17.19, 2);
    const rings = EVERYDAY_SIZES.filter((s) => s.group.startsWith('Rings'));
    expect(rings.length).toBeGreaterThan(10);
    for (const r of rings) expect(r.figures.diameter * Math.PI).toBeCloseTo(Number(r.name.slice(5)), 1);
  });
  it('each has a source and gives dimensions with names that formulas can use, all different', () => {
    const names = new Set<string>();
    let n = 0;
    for (const s of EVERYDAY_SIZES) {
      expect(s.source.length).toBeGreaterThan(5);
      for (const d of dimensionsOf(s, () => String(n++))) {
        expect(isName(d.name), d.name).toBe(true);
        expect(names.has(d.name), d.name).toBe(false);
        names.add(d.name);
      }
    }
  });
});

describe('what a vessel holds', () => {
  const cup = stepOf('turned', {
    body: 'wall',
    wall: 3,
    profile: {
      points: [
        { id: 'a', r: 0, y: 0 },
        { id: 'b', r: 40, y: 0 },
        { id: 'c', r: 40, y: 90 },
      ],
      segments: [
        { id: 's0', name: 'floor', kind: 'line' },
        { id: 's1', name: 'wall', kind: 'line' },
      ],
    },
  });
  it('a cylinder: πr²h of its inside', () => {
    expect(capacityOf(cup)).toBeCloseTo((Math.PI * 37 * 37 * 87) / 1000, 6);
    expect(capacityOf({ ...cup, drawnIs: 'inside' })).toBeCloseTo((Math.PI * 40 * 40 * 90) / 1000, 6);
  });
  it('half a sphere: 2πr³/3', () => {
    const bowl = stepOf('turned', {
      body: 'wall',
      wall: 2,
      drawnIs: 'inside',
      profile: {
        points: [
          { id: 'a', r: 0, y: 0 },
          { id: 'b', r: 50, y: 50 },
        ],
        segments: [{ id: 's0', name: 'bowl', kind: 'arc', bulge: 50 * (1 - Math.SQRT1_2) }],
      },
    });
    expect(capacityOf(bowl) / ((2 / 3) * Math.PI * 125)).toBeCloseTo(1, 5);
  });
  it.each(['height', 'width', 'both'] as const)('is made 250 ml by its %s, its wall as it was', (growth) => {
    const fitted = fitCapacity(cup, 250, growth);
    expect(capacityOf(fitted)).toBeCloseTo(250, 2);
    expect(fitted.wall).toBe(3);
  });
  it('what can’t be, is said', () => {
    expect(() => fitCapacity(cup, 5e6, 'height')).toThrow(/can’t be stretched to hold/);
    expect(() => fitCapacity(cup, 0, 'both')).toThrow(/more than 0 ml/);
    expect(() => capacityOf({ ...cup, body: 'solid' })).toThrow(/holds nothing/);
  });
});
