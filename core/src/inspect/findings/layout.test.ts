import { describe, expect, it } from 'vitest';
import { sheet } from '../../../test/shapes';
import { random } from '../../maths/random';
import { attribute, type PolyMesh, triangleCount, withAttribute, withoutAttribute } from '../../mesh/polymesh';
import { layoutFaults } from './layout';

const N = 8;
const clean = sheet(N, 80, () => 0);
/** The same mesh with its layout put through a function of the face and of u and v. */
function laid(change: (u: number, v: number, face: number) => [number, number]): PolyMesh {
  const uv = attribute(clean, 'uv')?.data as Float64Array;
  const data = uv.slice();
  for (let f = 0; f + 1 < clean.faceStart.length; f++)
    for (let c = clean.faceStart[f]; c < clean.faceStart[f + 1]; c++) data.set(change(uv[2 * c], uv[2 * c + 1], f), 2 * c);
  return withAttribute(clean, { name: 'uv', domain: 'corner', size: 2, data });
}

describe('the layout a file brought', () => {
  it('has nothing wrong where every face has its own place', () => {
    expect(layoutFaults(clean)).toEqual({
      flat: [],
      outside: [],
      overlapping: [],
      overlapShare: 0,
      mirrored: [],
      spread: expect.closeTo(1, 9),
    });
    expect(layoutFaults(withoutAttribute(clean, 'uv'))).toBeNull();
  });
  it('faces without a place, beyond the tile, mirrored, and on each other are found wherever they are', () => {
    const next = random(4);
    for (let i = 0; i < 20; i++) {
      const one = Math.floor(next() * N * N);
      const both = (f: number) => [2 * f, 2 * f + 1];
      expect(layoutFaults(laid((u, v, f) => (f === one ? [0.5, 0.5] : [u, v])))?.flat).toEqual(both(one));
      expect(layoutFaults(laid((u, v, f) => (f === one ? [u + 1, v] : [u, v])))?.outside).toEqual(both(one));
      expect(layoutFaults(laid((u, v, f) => (f === one ? [(2 * (one % N) + 1) / N - u, v] : [u, v])))?.mirrored).toEqual(both(one));
      // On top of its neighbour.
      const other = one % N === N - 1 ? one - 1 : one + 1;
      const shift = (other - one) / N;
      const found = layoutFaults(laid((u, v, f) => (f === one ? [u + shift, v] : [u, v])));
      expect(found?.overlapping).toEqual([...both(Math.min(one, other)), ...both(Math.max(one, other))]);
      expect(found?.overlapShare).toBeCloseTo(1 / (N * N - 1), 2);
    }
  });
  it('uneven density is the ratio of what lies dense to what lies thin', () => {
    // The left half takes three quarters of the tile: 1.5 times as dense across, as is by √ of areas.
    const found = layoutFaults(laid((u, v) => [u < 0.5 ? 1.5 * u : u <= 0.5 ? 0.75 : 0.75 + (u - 0.5) * 0.5, v]));
    expect(found?.spread).toBeCloseTo(Math.sqrt(3), 6);
    expect(triangleCount(clean)).toBe(2 * N * N);
  });
});
