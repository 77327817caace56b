import { evaluateDimensions } from '@wellmorph/core/form/dimensions';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readTyped, stepped, type Typed } from './typed';

const WIDE = { min: -1e6, max: 1e6 };
const length = (unit: Typed['unit'], more: Partial<Typed> = {}): Typed => ({ kind: 'length', unit, ...WIDE, ...more });

describe('a figure that is typed', () => {
  // An inch is 25.4 mm exactly (international yard and pound agreement, 1959).
  it.each([
    ['12', 'mm', 12],
    ['2*3.5cm', 'mm', 70],
    ['2,5', 'cm', 2.5],
    ['25.4mm', 'in', 1],
    ['1in', 'cm', 2.54],
    ['0.5m', 'in', 500 / 25.4],
    ['(1 + 2) / 4', 'm', 0.75],
  ] as const)('“%s” where %s are shown', (text, unit, wanted) => {
    expect(readTyped(text, length(unit))).toBeCloseTo(wanted, 9);
  });
  it('names and bare numbers beside them are mm in whatever unit the field is: the formula is kept as it is typed', () => {
    const names = evaluateDimensions([{ id: 'w', name: 'wall', formula: '3', kind: 'length' }] as never).lookup;
    expect(readTyped('wall + 2', length('cm', { names }))).toBeCloseTo(0.5, 9);
    expect(readTyped('2', length('cm', { names }))).toBe(2);
    expect(() => readTyped('rim + 2', length('cm', { names }))).toThrow(/rim/);
  });
  it('out of range is said in the unit that is shown, and not clamped', () => {
    const field = length('in', { min: 0.5, max: 12 });
    expect(() => readTyped('0.4', field)).toThrow('It can’t be less than 0.5 in.');
    expect(() => readTyped('31cm', field)).toThrow('It can’t be more than 12 in.');
    expect(readTyped('12', field)).toBeCloseTo(12, 12);
  });
  it('a limit can be typed in every unit it is shown in', () => {
    fc.assert(
      fc.property(fc.constantFrom('mm', 'cm', 'm', 'in'), fc.integer({ min: 1, max: 5000 }), (unit, n) => {
        const most = n / 10;
        for (const f of [length(unit, { max: most }), length(unit, { min: most })]) expect(readTyped(String(most), f)).toBeCloseTo(most, 9);
      }),
    );
  });
  it('whole numbers are whole, and numbers have no unit', () => {
    const whole: Typed = { kind: 'whole', unit: 'mm', min: 3, max: 4096 };
    expect(readTyped('4*8', whole)).toBe(32);
    expect(() => readTyped('7/2', whole)).toThrow('It has to be a whole number.');
    expect(() => readTyped('2', whole)).toThrow('It can’t be less than 3.');
    expect(() => readTyped('3cm', { ...whole, kind: 'number' })).toThrow('“3cm” is not a plain number: it is a length.');
  });
  it('whatever is typed gives a figure within its limits or a sentence', () => {
    const field = fc.record<Typed>({
      kind: fc.constantFrom('length', 'number', 'whole'),
      unit: fc.constantFrom('mm', 'cm', 'm', 'in'),
      min: fc.constant(-50),
      max: fc.constant(50),
    });
    fc.assert(
      fc.property(fc.oneof(fc.string(), fc.double().map(String), fc.constantFrom('1e9', '--1', '1/0', '', ' ', '٣')), field, (text, f) => {
        try {
          const n = readTyped(text, f);
          expect(n).toBeGreaterThanOrEqual(f.min);
          expect(n).toBeLessThanOrEqual(f.max);
        } catch (error) {
          expect((error as Error).message).toMatch(/^.+\.$/s);
        }
      }),
      { numRuns: 500 },
    );
  });
});

describe('arrow keys in a figure', () => {
  const by = (far: boolean, up = true) => ({ up, far, kind: 'length' as const, per: 1 });
  it('go by one, by ten with Shift, and by a tenth of that below ten', () => {
    expect(stepped(40, by(false))).toBe(41);
    expect(stepped(40, by(true, false))).toBe(30);
    expect(stepped(0.3, by(false))).toBe(0.4);
    expect(stepped(0.3, by(true))).toBe(1.3);
    expect(stepped(3, { up: true, far: false, kind: 'whole', per: 1 })).toBe(4);
  });
  it('go by the same millimetres in every unit', () => {
    for (const per of [1, 10, 1000, 25.4]) {
      const mm = stepped(40 / per, { up: true, far: false, kind: 'length', per }) * per;
      // Six decimals of a metre are a thousandth of a millimetre.
      expect(Math.abs(mm - 41)).toBeLessThan(1e-3);
    }
  });
  it('up and down again is where it was', () => {
    fc.assert(
      fc.property(fc.integer({ min: -9000, max: 9000 }), fc.boolean(), (n, far) => {
        const start = n / 10;
        const there = stepped(start, by(far));
        // Where ten is passed, the way back is the other step.
        if (Math.abs(start) < 10 === Math.abs(there) < 10) expect(stepped(there, by(far, false))).toBeCloseTo(start, 6);
      }),
    );
  });
});
