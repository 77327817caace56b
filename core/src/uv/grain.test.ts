import { describe, expect, it } from 'vitest';
import { cube, sheet } from '../../test/shapes';
import { IDENTITY } from '../maths/mat4';
import { attribute, makeMesh, type PolyMesh } from '../mesh/polymesh';
import { type UnwrapSettings, unwrap } from '../pipeline/unwrap';
import { grainDirection, grainOff, grainTurns } from './grain';

const settings: UnwrapSettings = { size: 512, padding: 8, seamAngle: 50, rotate: true, weights: {}, regions: {} };
/** A strip in space along (1, 1, 0), laid at an angle. */
const strip = (angle: number): { mesh: PolyMesh; uv: number[] } => {
  const d = Math.SQRT1_2;
  const mesh = makeMesh({
    positions: [0, 0, 0, 10 * d, 10 * d, 0, 8 * d, 12 * d, 0, -2 * d, 2 * d, 0],
    faceStart: [0, 4],
    faceVert: [0, 1, 2, 3],
    attributes: [],
  });
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  const flat = [0, 0, 10, 0, 10, 2, 0, 2];
  return { mesh, uv: flat.map((_, i) => (i % 2 ? s * flat[i - 1] + c * flat[i] : c * flat[i] - s * flat[i + 1])) };
};

describe('grain', () => {
  it('an island is turned until its grain is upright, whichever way it lay (by hand: the strip runs at 45° to x)', () => {
    for (const angle of [0, 0.4, 1.9, -2.7]) {
      const { mesh, uv } = strip(angle);
      // Laid with its length at `angle`, x runs an eighth of a turn below that.
      const [turn] = grainTurns(mesh, uv, [0], 1, [1, 0, 0]);
      const off = (turn - (Math.PI / 2 - (angle - Math.PI / 4))) / Math.PI;
      expect(off - Math.round(off)).toBeCloseTo(0, 9);
      const wanted = Math.abs(((((((angle - Math.PI / 4) * 180) / Math.PI - 90) % 180) + 270) % 180) - 90);
      expect(grainOff(mesh, uv, [0], 1, [1, 0, 0])?.mean).toBeCloseTo(wanted, 6);
    }
  });
  it('ends have none; a length is the longest side', () => {
    const { mesh, uv } = strip(0);
    expect(grainTurns(mesh, uv, [0], 1, [0, 0, 1])[0]).toBeNaN();
    expect(grainOff(mesh, uv, [0], 1, [0, 0, 1])).toBeNull();
    const upright = makeMesh({
      positions: [0, 0, 0, 3, 0, 0, 3, 8, 0, 0, 8, 0],
      faceStart: [0, 4],
      faceVert: [0, 1, 2, 3],
      attributes: [],
    });
    expect(grainDirection(upright, 'length')).toEqual([0, 1, 0]);
    expect(grainDirection(mesh, 'z')).toEqual([0, 0, 1]);
  });
  it('in a layout: upright within 2° on every island but the ends, at no cost where a part has none', () => {
    const mesh = sheet(6, 40, (x) => 0.02 * x * x);
    const long = { id: 'p', name: 'p', mesh, placements: [IDENTITY] };
    const block = { id: 'q', name: 'q', mesh: cube(12), placements: [IDENTITY] };
    const made = unwrap([long, block], { ...settings, grain: { p: 'x', q: 'y' } });
    const [p, q] = made.figures.parts;
    expect(p.grain?.worst).toBeLessThan(2);
    expect(q.grain?.worst).toBeLessThan(0.01);
    expect(made.figures).toMatchObject({ overlapTexels: 0, folds: 0 });
    // Read back: where y grows on the block's sides, v grows or falls and u stays.
    const laid = made.parts[1].mesh;
    const uv = attribute(laid, 'uv', 'corner')?.data as Float64Array;
    let upright = 0;
    for (let f = 0; f < 6; f++)
      for (let c = 4 * f; c < 4 * f + 4; c++) {
        const d = 4 * f + ((c + 1) % 4);
        const [v, w] = [3 * laid.faceVert[c], 3 * laid.faceVert[d]];
        if (Math.abs(laid.positions[v + 1] - laid.positions[w + 1]) < 1) continue;
        upright++;
        expect(Math.abs(uv[2 * c] - uv[2 * d])).toBeLessThan(1e-6);
      }
    expect(upright).toBe(8);
    expect(unwrap([block], settings).figures.parts[0].grain).toBeUndefined();
  });
});
