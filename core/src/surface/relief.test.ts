import { describe, expect, it } from 'vitest';
import { sheet } from '../../test/shapes';
import { decodePng, encodePng, type Pixels } from '../image/png';
import { attribute, makeMesh, type PolyMesh, withAttribute } from '../mesh/polymesh';
import { compose } from './compose';
import { makeGround } from './ground';
import { boardsOf, emptyPlaces, fillPlaces } from './layers/places';
import { PLAIN } from './material';
import { reliefNormals, reliefPixels } from './relief';

/** A sheet of so many mm, over the whole tile. */
function flat(width: number, height: number): PolyMesh {
  const mesh = makeMesh({
    positions: [0, 0, 0, width, 0, 0, width, height, 0, 0, height, 0],
    faceStart: [0, 4],
    faceVert: [0, 1, 2, 3],
  });
  return withAttribute(mesh, { name: 'uv', domain: 'corner', size: 2, data: Float64Array.from([0, 0, 1, 0, 1, 1, 0, 1]) });
}
const SIZE = 128;
const ALL = new Uint8Array(SIZE * SIZE).fill(1);
/** Heights from a function of mm, x right and y up, on a sheet. */
const heights = (width: number, height: number, at: (x: number, y: number) => number): Float32Array =>
  Float32Array.from({ length: SIZE * SIZE }, (_, i) =>
    at((((i % SIZE) + 0.5) / SIZE) * width, (1 - (Math.floor(i / SIZE) + 0.5) / SIZE) * height),
  );
const inner = (i: number, by = 2) => [i % SIZE, Math.floor(i / SIZE)].every((v) => v >= by && v < SIZE - by);

describe('heights as directions', () => {
  it.each([
    [40, 40],
    [40, 10],
  ])('a cone leans by its slope all round, on a sheet of %i × %i mm, stretched or not', (width, height) => {
    const slope = 0.25;
    const [cx, cy] = [width / 2, height / 2];
    const { normals, figures } = reliefNormals(
      [{ mesh: flat(width, height) }],
      SIZE,
      heights(width, height, (x, y) => -slope * Math.hypot(x - cx, y - cy)),
      ALL,
      null,
    );
    let worst = 0;
    for (let i = 0; i < SIZE * SIZE; i++) {
      const [x, y] = [(((i % SIZE) + 0.5) / SIZE) * width - cx, (1 - (Math.floor(i / SIZE) + 0.5) / SIZE) * height - cy];
      // About its point neighbours lie on both sides of it.
      if (!inner(i) || Math.hypot(x, y) < width / 10) continue;
      const [nx, ny, nz] = normals.subarray(3 * i, 3 * i + 3);
      const r = Math.hypot(x, y);
      const l = Math.hypot(slope, 1);
      const off = Math.acos(Math.min(1, (nx * slope * x) / r / l + (ny * slope * y) / r / l + nz / l));
      worst = Math.max(worst, (off * 180) / Math.PI);
    }
    expect(worst).toBeLessThan(0.6);
    expect(Math.abs(figures.steepest - (Math.atan(slope) * 180) / Math.PI)).toBeLessThan(0.6);
    expect(figures.highestUm).toBe(0);
  });
  it('a sine of 20 µm is as steep as its derivative says', () => {
    const [w, a, k] = [12, 0.02, 2 * Math.PI];
    const { normals, figures } = reliefNormals(
      [{ mesh: flat(w, w) }],
      SIZE,
      heights(w, w, (x) => a * Math.sin(k * x)),
      ALL,
      null,
    );
    for (let i = 0; i < SIZE * SIZE; i += 7) {
      if (!inner(i)) continue;
      const x = (((i % SIZE) + 0.5) / SIZE) * w;
      // A difference over two texels is the derivative times sin(kd)/(kd).
      const d = w / SIZE;
      const slope = (a * k * Math.cos(k * x) * Math.sin(k * d)) / (k * d);
      expect(-normals[3 * i] / normals[3 * i + 2]).toBeCloseTo(slope, 3);
      expect(normals[3 * i + 1]).toBeCloseTo(0, 6);
    }
    expect(figures.highestUm).toBeCloseTo(20, 0);
    expect(figures.lowestUm).toBeCloseTo(-20, 0);
  });
  it('a mirrored island leans the same way on the piece: its frame is mirrored with it', () => {
    const mesh = flat(20, 20);
    const uv = attribute(mesh, 'uv', 'corner')?.data as Float64Array;
    const mirrored = withAttribute(mesh, { name: 'uv', domain: 'corner', size: 2, data: uv.map((v, i) => (i % 2 ? v : 1 - v)) });
    const ramp = heights(20, 20, (x) => 0.1 * x);
    const seen = reliefNormals([{ mesh: mirrored }], SIZE, ramp, ALL, null).normals;
    // Higher to the right of the tile, so it leans to the left of the tile, whichever way the piece lies on it.
    expect(seen[3 * 8000]).toBeCloseTo(-0.1 / Math.hypot(0.1, 1), 4);
  });
  it('is laid over what was baked: nothing leaves it as it is, both together are turned one after the other', () => {
    const lean = [0.3, 0.2, Math.sqrt(1 - 0.13)];
    const over: Pixels = {
      width: SIZE,
      height: SIZE,
      channels: 3,
      depth: 8,
      data: Uint8Array.from({ length: 3 * SIZE * SIZE }, (_, i) => Math.round(((lean[i % 3] + 1) / 2) * 255)),
    };
    const none = reliefNormals([{ mesh: flat(20, 20) }], SIZE, new Float32Array(SIZE * SIZE), ALL, over).normals;
    expect([...reliefPixels(none, SIZE, new Int32Array(SIZE * SIZE).fill(-1)).data.slice(0, 3)]).toEqual([...over.data.slice(0, 3)]);
    const { normals } = reliefNormals(
      [{ mesh: flat(20, 20) }],
      SIZE,
      heights(20, 20, (x) => 0.1 * x),
      ALL,
      over,
    );
    const i = 3 * (64 * SIZE + 64);
    // Turned by the rotation that takes straight up to the baked direction (Rodrigues).
    const d = [-0.1, 0, 1].map((v) => v / Math.hypot(0.1, 1));
    const b = lean.map((v, k) => (2 * Math.round(((v + 1) / 2) * 255)) / 255 - 1 + 0 * k);
    const bl = Math.hypot(...b);
    const n = b.map((v) => v / bl);
    const axis = [-n[1], n[0], 0];
    const s = Math.hypot(...axis);
    const k = axis.map((v) => v / s);
    const c = n[2];
    const kd = k[0] * d[0] + k[1] * d[1];
    const cross = [k[1] * d[2], -k[0] * d[2], k[0] * d[1] - k[1] * d[0]];
    const wanted = d.map((v, q) => v * c + cross[q] * s + k[q] * kd * (1 - c));
    for (const q of [0, 1, 2]) expect(normals[i + q]).toBeCloseTo(wanted[q], 4);
  });
  it('of layers: raised and recessed add up, in mm of the piece', () => {
    const mesh = sheet(1, 50, () => 0);
    const parts = [{ id: 'p', mesh, material: 0 }];
    const ground = makeGround({ parts, size: 64, curvature: null, occlusion: null, seed: 1 });
    const boards = boardsOf(parts);
    const places = emptyPlaces(64, 0, 64);
    fillPlaces(parts, boards, places);
    const stands = (id: string, relief: number) => ({ id, name: id, on: true, opacity: 0.2, look: { relief }, mask: [] });
    const { set } = compose(ground, [{ ...PLAIN, id: 'm', name: 'M', layers: [stands('a', 120), stands('b', -20)] }], null, {
      places,
      boards,
    });
    const at = ground.owner.findIndex((o) => o > 0);
    expect(set.height?.[at]).toBeCloseTo(0.1, 6);
    expect(compose(ground, [{ ...PLAIN, id: 'm', name: 'M', layers: [] }], null, { places, boards }).set.height).toBeNull();
    // As a file it is what it was.
    const p: Pixels = { width: 2, height: 1, channels: 3, depth: 8, data: Uint8Array.from([128, 128, 255, 90, 128, 250]) };
    expect([...decodePng(encodePng(p)).data]).toEqual([...p.data]);
  });
});
