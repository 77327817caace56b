import { describe, expect, it } from 'vitest';
import { cube, sheet } from '../../test/shapes';
import { layoutMap } from '../drawing/layout';
import { decodePng } from '../image/png';
import { makeMesh, type PolyMesh } from '../mesh/polymesh';
import { layoutView } from './views';

/** Squares of 10 mm side by side, each an island, laid as rectangles of given sides (shares of the tile). */
function squares(sides: readonly (readonly [number, number])[]): PolyMesh {
  const positions = sides.flatMap((_, i) => [20 * i, 0, 0, 20 * i + 10, 0, 0, 20 * i + 10, 10, 0, 20 * i, 10, 0]);
  let x = 0;
  const uv = sides.flatMap(([w, h]) => {
    const at = [x, 0, x + w, 0, x + w, h, x, h];
    x += w;
    return at;
  });
  return makeMesh({
    positions,
    faceStart: Array.from({ length: sides.length + 1 }, (_, i) => 4 * i),
    faceVert: Array.from({ length: 4 * sides.length }, (_, i) => i),
    attributes: [
      { name: 'uv', domain: 'corner', size: 2, data: Float64Array.from(uv) },
      { name: 'island', domain: 'face', size: 1, data: Int32Array.from(sides, (_, i) => i) },
    ],
  });
}
const part = (mesh: PolyMesh) => ({ id: 'a', mesh, looks: new Float32Array(mesh.faceStart.length - 1).fill(0.25) });

describe('what is measured all over a layout', () => {
  it('stretch is the ratio a square is drawn out by, whichever way, at its island’s own scale (singular values of a diagonal map)', () => {
    // As it is, twice as large, and drawn out to 2 : 1 and 1 : 2, which at equal area is √2 along and 1/√2 across.
    const { view, worst } = layoutView(
      'stretch',
      [
        part(
          squares([
            [0.1, 0.1],
            [0.2, 0.2],
            [0.2, 0.1],
            [0.1, 0.2],
          ]),
        ),
      ],
      1000,
    );
    const [values] = view.parts.map((p) => [...(p.values as Float32Array)]);
    const perIsland = [0, 1, 2, 3].map((i) => values[6 * i]);
    expect(perIsland[0]).toBeCloseTo(1, 6);
    expect(perIsland[1]).toBeCloseTo(1, 6);
    expect(perIsland[2]).toBeCloseTo(Math.SQRT2, 6);
    expect(perIsland[3]).toBeCloseTo(Math.SQRT2, 6);
    expect(worst.map((w) => w.island).sort()).toEqual([2, 3]);
    expect(worst[0].value).toBeCloseTo(Math.SQRT2, 6);
    expect(view.words).toBe('The largest pull in any direction, 1 is none: 95 % of the surface is within 1.414, the worst 1.41.');
    // Half of the surface at the low end, half where √2 is.
    expect(view.bins?.[0]).toBeCloseTo(0.5, 9);
    expect(view.bins?.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 9);
    expect(layoutView('stretch', [part(squares([[0.1, 0.1]]))], 1000)).toMatchObject({
      worst: [],
      view: { words: 'Nothing is pulled by half a per cent or more.' },
    });
  });

  it('density is texels over centimetres: a tenth of 1 000 px on 10 mm are 100 px/cm', () => {
    const { view, worst } = layoutView(
      'density',
      [
        part(
          squares([
            [0.1, 0.1],
            [0.2, 0.2],
          ]),
        ),
      ],
      1000,
    );
    expect(view.parts[0].values?.[0]).toBeCloseTo(100, 4);
    expect(view.parts[0].values?.[6]).toBeCloseTo(200, 4);
    expect(view.unit).toBe('px/cm');
    expect(view.low).toBeLessThanOrEqual(100);
    expect(view.high).toBeGreaterThanOrEqual(200);
    expect(worst).toEqual([]);
  });

  it('looks are those it was given; a triangle without area says nothing, and a mesh without a layout neither', () => {
    expect(layoutView('looks', [part(cube(10))], 64).view.parts[0].values?.[0]).toBe(0.25);
    const needle = squares([[0.1, 0.1]]);
    needle.positions.set([0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0]);
    for (const mesh of [needle, cube(10)]) {
      const { view, worst } = layoutView('stretch', [part(mesh)], 64);
      expect([...(view.parts[0].values as Float32Array)].every(Number.isNaN)).toBe(true);
      expect(worst).toEqual([]);
      expect(view.words).not.toContain('NaN');
    }
  });

  it('is drawn in the tile triangle by triangle, clear beside them', () => {
    const picture = decodePng(layoutMap([{ name: 'a', mesh: sheet(1, 10, () => 0) }], 8, (_, t) => [t === 0 ? 255 : 0, 0, 9]));
    expect([picture.width, picture.channels]).toEqual([8, 4]);
    const reds = Array.from({ length: 64 }, (_, i) => picture.data[4 * i]);
    expect(reds.filter((r) => r === 255).length + reds.filter((r) => r === 0).length).toBe(64);
    expect(Math.abs(reds.filter((r) => r === 255).length - 32)).toBeLessThanOrEqual(4);
    const beside = decodePng(layoutMap([{ name: 'a', mesh: squares([[0.5, 0.5]]) }], 8, () => [1, 2, 3]));
    expect(Array.from({ length: 64 }, (_, i) => beside.data[4 * i + 3]).filter((a) => a === 255)).toHaveLength(16);
  });
});
