import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { parseLength } from './formula';
import { figure, inUnit, LENGTH_UNITS, MM_PER, millimetres, sentenceIn } from './lengths';

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
    expect(inUnit(267.4, 'mm', 1)).toBe('267.4\u00a0mm');
    expect(inUnit(267.4, 'cm', 1)).toBe('26.74\u00a0cm');
    expect(inUnit(267.4, 'm', 1)).toBe('0.2674\u00a0m');
    expect(inUnit(25.4, 'in')).toBe('1\u00a0in');
    expect(inUnit([112, 267, 112], 'cm', 0)).toBe('11.2 × 26.7 × 11.2\u00a0cm');
    expect(inUnit(1234.5, 'mm', 1)).toBe('1\u202f234.5\u00a0mm');
  });
});

describe('sentences read in another unit', () => {
  it('have their lengths turned, and nothing else that looks like one', () => {
    const said = `“Knob 3 mm” stands ${millimetres(12.7)} off, ${inUnit([25.4, 50.8], 'mm', 1)} wide, over ${figure(90)} mm², with a 50 mm lens.`;
    expect(sentenceIn(said)).toBe(said);
    expect(sentenceIn(said, 'mm')).toBe(said);
    expect(sentenceIn(said, 'in')).toBe('“Knob 3 mm” stands 0.5\u00a0in off, 1 × 2\u00a0in wide, over 90 mm², with a 50 mm lens.');
    expect(sentenceIn(said, 'cm')).toContain('stands 1.27\u00a0cm off, 2.54 × 5.08\u00a0cm wide');
  });
  it('turn what is below nothing, in the thousands, or whole', () => {
    expect(sentenceIn(`moved by ${millimetres(-1234.5)}`, 'm')).toBe('moved by -1.2345\u00a0m');
    // 5 mm are 0.197 in, not 0.2: a whole figure is taken to be as exact as a tenth.
    expect(sentenceIn(`A wall of ${millimetres(5)} fits.`, 'in')).toBe('A wall of 0.197\u00a0in fits.');
  });
  it('say the same length in every unit, as far as the sentence itself is exact', () => {
    fc.assert(
      fc.property(fc.double({ min: -1e5, max: 1e5, noNaN: true }), fc.integer({ min: 0, max: 4 }), (mm, digits) => {
        for (const unit of LENGTH_UNITS) {
          const read = sentenceIn(`It is ${millimetres(mm, digits)} off.`, unit).match(/^It is ([^\u00a0]+)\u00a0(\w+) off\.$/);
          expect(read?.[2]).toBe(unit);
          const back = Number(read?.[1].replaceAll('\u202f', '')) * MM_PER[unit];
          // Half of the last figure it gives in mm, and half of the last one in the unit, which is no coarser.
          const given = Math.max(millimetres(mm, digits).match(/\.(\d+)/)?.[1].length ?? 0, 1);
          expect(Math.abs(back - mm)).toBeLessThanOrEqual(0.5 * 10 ** -digits + 0.5 * 10 ** -given + 1e-6);
        }
      }),
    );
  });
});
