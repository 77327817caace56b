import { describe, expect, it } from 'vitest';
import { sheet } from '../../test/shapes';
import { decodePng, encodePng } from '../image/png';
import { IDENTITY, translation } from '../maths/mat4';
import { random } from '../maths/random';
import { attribute, type PolyMesh, withAttribute } from '../mesh/polymesh';
import { transform } from '../mesh/transform';
import { type BakeSettings, prepareBake } from '../pipeline/bake';
import { bakeTexels } from '../pipeline/bake-finish';
import { bakeWindow } from '../pipeline/bake-window';
import { BAKE_DEFAULTS } from '../pipeline/document';
import { LAYERS } from './bands';
import { BandBaker } from './cast';
import { bakeBytes, MOST_BYTES } from './forecast';
import { normalMap } from './maps/normal';
import { occlusionMap } from './maps/occlusion';
import { narrowShare, occlusionNoise } from './narrow';
import { emptyTexels } from './texels';
import { bandsTouched } from './touched';
import { windowOf, windowOn } from './window';

const settings = (more: Partial<BakeSettings> = {}): BakeSettings => ({
  ...BAKE_DEFAULTS,
  size: 96,
  samples: 2,
  occlusionRays: 4,
  ...more,
});
const part = (mesh: PolyMesh) => ({ id: 'p', name: 'p', mesh, placements: [IDENTITY] });

/** A sheet whose layout leaves a margin, so that rims of the island lie inside the tile. */
function low(): PolyMesh {
  const m = sheet(3, 10, () => 0);
  const uv = Float64Array.from(attribute(m, 'uv')?.data ?? [], (x) => 0.1 + 0.8 * x);
  return withAttribute(m, { name: 'uv', domain: 'corner', size: 2, data: uv });
}
const rough = (seed: number) => {
  const next = random(seed);
  return sheet(24, 10, () => 0.4 * next());
};

describe('bands', () => {
  it('give the same bytes whether one worker bakes them in order or two take them as they come', () => {
    const { prepared } = prepareBake([part(low())], [part(rough(1))], new Map(), settings());
    const one = bakeTexels(prepared);
    const two = emptyTexels(prepared);
    const workers = [new BandBaker(prepared, two), new BandBaker(prepared, two)];
    const order = Array.from({ length: workers[0].bands }, (_, i) => i).reverse();
    for (const [k, band] of order.entries()) workers[k % 2].bake(band);
    expect(two.normal).toEqual(one.normal);
    expect(two.occlusion).toEqual(one.occlusion);
    expect(two.state).toEqual(one.state);
    expect(normalMap(two, { y: 'up', bits: 8 }).data).toEqual(normalMap(one, { y: 'up', bits: 8 }).data);
  });
  it('cast one ray a covered sample: four times as many for 2 × 2 as for 1', () => {
    const rays = (samples: 1 | 2 | 4) =>
      bakeTexels(prepareBake([part(low())], [part(rough(2))], new Map(), settings({ samples, occlusion: false })).prepared).counts
        .samples[0];
    // 0.8² of the tile is covered.
    expect(rays(1) / (96 * 96)).toBeCloseTo(0.64, 1);
    // Half a texel along the rim is the most that rounding can add or take.
    expect(Math.abs(rays(2) / rays(1) - 4)).toBeLessThan(0.15);
    expect(Math.abs(rays(4) / rays(1) - 16)).toBeLessThan(0.6);
  });
  it('a hole in the high mesh is marked as missed there and only there, and filled from around it', () => {
    const whole = sheet(20, 10, () => 0);
    const keep = Array.from({ length: 400 }, (_, f) => f).filter((f) => {
      const [i, j] = [f % 20, Math.floor(f / 20)];
      return i < 8 || i > 11 || j < 8 || j > 11;
    });
    const holed: PolyMesh = {
      ...whole,
      triangles: Uint32Array.from(keep.flatMap((f) => [...whole.triangles.slice(6 * f, 6 * f + 6)])),
      triangleFace: Uint32Array.from(keep.flatMap((f) => [f, f])),
    };
    const texels = bakeTexels(prepareBake([part(low())], [part(holed)], new Map(), settings({ samples: 1, occlusion: false })).prepared);
    const missed = [...texels.state].filter((s) => s === 2).length;
    const covered = [...texels.state].filter((s) => s > 0).length;
    // 4 × 4 of 20 × 20 cells.
    expect(missed / covered).toBeCloseTo(0.04, 2);
    expect(texels.counts.missed).toEqual([missed]);
    const map = normalMap(texels, { y: 'up', bits: 8 });
    for (let i = 0; i < map.data.length; i += 3) expect([map.data[i], map.data[i + 1], map.data[i + 2]]).toEqual([128, 128, 255]);
  });
  it('occlusion falls with the distance of a lid, and is nothing beyond its reach', () => {
    const at = (mm: number, reachMm: number) => {
      const floor = part(sheet(2, 10, () => 0));
      const lid = {
        ...part(
          transform(
            sheet(1, 400, () => 0),
            translation([0, mm, 0]),
          ),
        ),
        id: 'lid',
        name: 'lid',
      };
      const { prepared } = prepareBake([part(low())], [floor, lid], new Map(), settings({ samples: 1, reachMm, occlusionRays: 64 }));
      const map = occlusionMap(bakeTexels(prepared));
      return Array.from(map.data).reduce((s, x) => s + x, 0) / map.data.length / 255;
    };
    expect(at(5, 4)).toBe(1);
    // Rays shorter than r reach a lid at height h within cos θ > h/r: open share (h/r)² of a cosine-weighted sky.
    for (const [h, r] of [
      [5, 10],
      [8, 10],
      [3, 12],
    ])
      expect(at(h, r)).toBeCloseTo((h / r) ** 2, 2);
  });
  it('those that other dabs reach are all that differ: baked over the old ones, the map is the same as baked anew', () => {
    const dab = (x: number, z: number, front: number) => ({
      part: 'p',
      at: [x, 0, z] as [number, number, number],
      radius: 1.5,
      front,
      rear: 0,
    });
    const prepared = (dabs: ReturnType<typeof dab>[]) =>
      prepareBake([part(low())], [part(rough(3))], new Map(), settings({ dabs, further: ['opacity', 'height'] })).prepared;
    const lists = [[], [dab(2, 2, 0)], [dab(2, 2, 0), dab(2, 3, 0.1)], [dab(2, 3, 0.1)], [dab(2, 2, 0.05)]];
    let before: ReturnType<typeof dab>[] = [];
    const texels = bakeTexels(prepared(before));
    for (const now of [...lists, []]) {
      const made = prepared(now);
      const touched = bandsTouched(made.pairs, before, now, made.size);
      const baker = new BandBaker(made, texels);
      expect(touched.length).toBeLessThan(baker.bands);
      for (const band of touched) baker.bake(band);
      const anew = bakeTexels(made);
      for (const layer of LAYERS) expect(texels[layer], layer).toEqual(anew[layer]);
      before = now;
    }
  });
});

describe('what maps say of themselves', () => {
  /** A map of upright stripes that lean by 50°, so many texels wide, with as much flat between. */
  const stripes = (width: number) => {
    const [size, lean] = [64, (50 * Math.PI) / 180];
    const normal = new Float32Array(3 * size * size);
    for (let i = 0; i < size * size; i++)
      normal.set(Math.floor((i % size) / width) % 2 === 0 ? [0, 0, 1] : [Math.sin(lean), 0, Math.cos(lean)], 3 * i);
    return { size, normal, state: new Uint8Array(size * size).fill(1) };
  };
  it('details one texel wide are found, those of two and more are not, nor what nothing was found beside', () => {
    // The columns at both rims have no neighbour on one side.
    expect(narrowShare(stripes(1))).toBeCloseTo(62 / 64, 9);
    for (const width of [2, 3, 8]) expect(narrowShare(stripes(width))).toBe(0);
    const lone = stripes(1);
    for (let i = 0; i < 64 * 64; i += 2) lone.state[i] = 0;
    expect(narrowShare(lone)).toBe(0);
  });
  it('by chance a share of a half is off by ½/√n', () => {
    const occlusion = new Float32Array(100).fill(0.5);
    const state = new Uint8Array(100).fill(1);
    expect(occlusionNoise({ occlusion, state }, 64)).toBeCloseTo(1 / 16, 9);
    expect(occlusionNoise({ occlusion: occlusion.fill(1), state }, 64)).toBe(0);
  });
  it('a size beyond what a bake may take is refused before anything is measured', () => {
    expect(() =>
      prepareBake([part(low())], [part(rough(1))], new Map(), settings({ size: 8192, further: ['position', 'bentNormal'] })),
    ).toThrow(/8192² with these maps needs about 4.4 GB at once, and a bake may take 3\.0 GB/);
    expect(bakeBytes({ ...settings({ size: 8192, curvature: true }), further: [] })).toBeLessThan(MOST_BYTES);
  });
});

describe('a rectangle of a map', () => {
  it('is that of the whole map to the bit, in the smallest square that holds it', () => {
    const chosen = settings({ further: ['height'] });
    const made = prepareBake([part(low())], [part(rough(5))], new Map(), chosen);
    const whole = bakeTexels(made.prepared);
    const rect = { x: 0.3, y: 0.42, width: 0.25, height: 0.125 };
    const window = windowOn(rect, 96);
    expect(window).toEqual({ x: 28, y: 40, side: 24 });
    const cut = windowOf(whole, window);
    expect(cut.normal.length).toBe(3 * 24 * 24);
    expect(cut.state[5]).toBe(whole.state[40 * 96 + 33]);
    const baked = bakeWindow(made, chosen, rect, 'occlusion');
    const all = decodePng(encodePng(occlusionMap(whole)));
    const one = decodePng(baked.png);
    expect([baked.side, one.width]).toEqual([24, 24]);
    for (let y = 0; y < 24; y++)
      for (let x = 0; x < 24; x++) expect(one.data[3 * (24 * y + x)]).toBe(all.data[3 * (96 * (40 + y) + 28 + x)]);
    expect(baked.at).toEqual({ x: 28 / 96, y: 40 / 96, width: 0.25, height: 0.25 });
  });
  it('at the rim of the tile it is drawn in, and never smaller than 16 texels', () => {
    expect(windowOn({ x: 0.95, y: 0.99, width: 0.05, height: 0.01 }, 256)).toEqual({ x: 240, y: 240, side: 16 });
    expect(windowOn({ x: 0, y: 0, width: 1, height: 0.5 }, 256)).toEqual({ x: 0, y: 0, side: 256 });
  });
});
