import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { parseLength } from './formula';
import { figure, inUnit } from './lengths';

describe('typed lengths', () => {
  // 1 in = 25.4 mm exactly (International yard and pound agreement, 1959).
  it.each([
    ['12.5', 12.5],
    ['2*3.5cm', 70],
    ['1in', 25.4],
    ['1"', 25.4],
    ['3 cm + 2', 32],
    ['(1 + 2) * 4mm', 12],
    ['-0,5', -0.5],
    ['1m/4', 250],
    ['10 - 2*3', 4],
  ])('%s is %d mm', (text, mm) => {
    expect(parseLength(text)).toBeCloseTo(mm, 9);
  });
  it.each(['', 'twelve', '2 +', '3cm*2cm', '6cm / 2cm', '1/0', '(1', '4 furlongs', '1e400', '2mm 3mm', '5)'])(
    '“%s” gets a sentence',
    (text) => {
      expect(() => parseLength(text)).toThrow(/is not a length: .+\.$/);
    },
  );
  it('takes a bare number in the unit it is asked for', () => {
    expect(parseLength('2', 'in')).toBeCloseTo(50.8, 9);
  });
  it('never throws anything but its own sentence, whatever is typed', () => {
    fc.assert(
      fc.property(fc.string(), (text) => {
        try {
          expect(Number.isFinite(parseLength(text))).toBe(true);
        } catch (error) {
          expect((error as Error).message).toMatch(/is not a length/);
        }
      }),
      { numRuns: 500 },
    );
  });
  it('prints with thin spaces and no trailing zeros', () => {
    expect(figure(1234567.5, 2)).toBe('1\u202f234\u202f567.5');
    expect(figure(-0.0001, 2)).toBe('0');
    expect(figure(Number.NaN)).toBe('–');
  });
});

describe('lengths in the unit that is wanted', () => {
  it('say as much as millimetres do; an inch is 25.4 mm exactly (international yard and pound agreement, 1959)', () => {
    expect(inUnit(267.4, 'mm', 1)).toBe('267.4 mm');
    expect(inUnit(267.4, 'cm', 1)).toBe('26.74 cm');
    expect(inUnit(267.4, 'm', 1)).toBe('0.2674 m');
    expect(inUnit(25.4, 'in')).toBe('1 in');
    expect(inUnit([112, 267, 112], 'cm', 0)).toBe('11.2 × 26.7 × 11.2 cm');
    expect(inUnit(1234.5, 'mm', 1)).toBe('1\u202f234.5 mm');
  });
});
