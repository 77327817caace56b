import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readObj } from './obj';

const bytes = (text: string) => new TextEncoder().encode(text);
const read = (text: string) => readObj(bytes(text), 1);
const HEAD = 'o A\nv 0 0 0\nv 10 0 0\nv 10 0 10\nv 0 0 10\nv 0 5 0\nvt 0 0\nvt 1 0\nvt 1 1\nvn 0 1 0\nvn 0 -1 0\nf 1 2 5\n';

/** The same line as only the thorough reader takes it: tabs are no plain spaces. */
const thorough = (line: string) => line.replaceAll(' ', '\t');
const outcome = (text: string): unknown => {
  try {
    return read(text);
  } catch (error) {
    return (error as Error).message;
  }
};

describe('lines that are read the short way', () => {
  it('of faces come to what the thorough way makes of them, right or wrong', () => {
    const number = fc.constantFrom('1', '2', '3', '4', '5', '6', '0', '-1', '12', '', '1.5', 'x', '00002');
    const corner = fc.oneof(
      { weight: 4, arbitrary: fc.tuple(number, number, number).map((x) => x.join('/')) },
      { weight: 2, arbitrary: fc.tuple(number, number).map((x) => x.join('/')) },
      { weight: 4, arbitrary: number },
      { weight: 1, arbitrary: fc.tuple(number, number, number, number).map((x) => x.join('/')) },
    );
    fc.assert(
      fc.property(fc.array(corner, { minLength: 1, maxLength: 5 }), fc.constantFrom('', '\r', ' ', '  \r'), (corners, end) => {
        const line = `f ${corners.filter((c) => c !== '').join(' ')}${end}`;
        expect(outcome(`${HEAD}${line}\n`)).toEqual(outcome(`${HEAD}${thorough(line)}\n`));
      }),
      { numRuns: 3000, seed: 8 },
    );
  });
  it('of points too', () => {
    const number = fc.constantFrom('0', '1.25', '-3e2', '.5', '1e-400', 'inf', 'nan', '', '1,5', '0x10', '--1', '1e308');
    fc.assert(
      fc.property(fc.array(number, { maxLength: 7 }), fc.constantFrom(' ', '  '), fc.constantFrom('', '\r', ' '), (numbers, gap, end) => {
        const line = `v ${numbers.join(gap)}${end}`;
        const text = (v: string) => `v 0 0 0\nv 9 0 0\n${v}\nv 0 0 9\nf 1 2 4\nf 1 2 3\n`;
        expect(outcome(text(line))).toEqual(outcome(text(thorough(line))));
      }),
      { numRuns: 3000, seed: 9 },
    );
  });
  it('and faces before any object, or counted back, or of points that come later, as before', () => {
    expect(read('v 0 0 0\nv 1 0 0\nv 0 0 1\nf 1 2 3\nf -3 -2 -1\n').parts[0].mesh.faceStart).toHaveLength(3);
    expect(outcome('v 0 0 0\nv 1 0 0\nf 1 2 3\nv 0 0 1\n')).toBe('Line 3 of the OBJ refers to element 3 of 2.');
  });
});
