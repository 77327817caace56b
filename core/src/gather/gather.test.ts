import { describe, expect, it } from 'vitest';
import { sheet } from '../../test/shapes';
import { bumps, crate, drum, finish, painted, pane, patchwork } from '../../test/textured';
import { packNormals } from '../bake/maps/normal';
import { decodePng, encodePng, type Pixels } from '../image/png';
import { IDENTITY } from '../maths/mat4';
import { triangleArea } from '../mesh/measures';
import { attribute, type PolyMesh, triangleCount, withAttribute } from '../mesh/polymesh';
import { prepareBake } from '../pipeline/bake';
import { bakeTexels } from '../pipeline/bake-finish';
import { BAKE_DEFAULTS } from '../pipeline/document';
import { unwrap } from '../pipeline/unwrap';
import { PLAIN_TEXTURING, type TextureUse, type Texturing } from '../surface/texturing';
import { secondAsFirst } from '../uv/second';
import { samplesFor } from './bands';
import { COMPARED, compareGathered } from './compare';
import { gatherAll } from './gather';
import { type GatherPart, prepareGather } from './prepare';

/** Pictures by a name in place of a hash. */
const shelf = (pictures: Record<string, Uint8Array>) => (name: string) => decodePng(pictures[name]);
const use = (picture: string, slot: TextureUse['slot'], more: Partial<TextureUse> = {}): TextureUse => ({
  picture,
  slot,
  layout: 0,
  ...more,
});
const textured = (uses: TextureUse[], more: Partial<Texturing> = {}): Texturing => ({ ...PLAIN_TEXTURING, uses, ...more });
const FULL = [
  use('colour', 'baseColour'),
  use('finish', 'roughness', { channel: 1 }),
  use('finish', 'metallic', { channel: 2 }),
  use('normal', 'normal'),
];
const part = (source: PolyMesh, target: PolyMesh, texturing: Texturing): GatherPart => ({
  id: 'p',
  name: 'p',
  source,
  target,
  texturing,
});
const areasOf = (mesh: PolyMesh) => Float64Array.from({ length: triangleCount(mesh) }, (_, t) => triangleArea(mesh, t));
/** A layout moved as a whole. */
const relaid = (mesh: PolyMesh, to: (u: number, v: number) => [number, number]): PolyMesh => {
  const uv = attribute(mesh, 'uv', 'corner')?.data as Float64Array;
  const data = new Float64Array(uv.length);
  for (let i = 0; i < uv.length; i += 2) data.set(to(uv[i], uv[i + 1]), i);
  return withAttribute(mesh, { name: 'uv', domain: 'corner', size: 2, data });
};
/** A second layout, as the stage makes it. */
const second = (mesh: PolyMesh, size: number): PolyMesh => {
  const made = unwrap([{ id: 'p', name: 'p', mesh, placements: [IDENTITY] }], {
    size,
    padding: 4,
    seamAngle: 50,
    rotate: true,
    weights: {},
    regions: {},
    filed: 'kept',
    second: { on: true, size, padding: 4 },
  });
  return secondAsFirst(made.parts[0]).mesh;
};
const SIDE = 128;
const pictures = { colour: patchwork(SIDE), finish: finish(SIDE), normal: bumps(SIDE) };

describe('gathering onto a layout', () => {
  it('onto itself: at most 1 of 255 in every texel and channel', () => {
    const mesh = crate(100);
    const { gathered, counts } = gatherAll(
      prepareGather({ parts: [part(mesh, mesh, textured(FULL))], size: SIDE, picture: shelf(pictures) }),
    );
    const [colour, orm, normal] = ['colour', 'finish', 'normal'].map((k) => decodePng(pictures[k as keyof typeof pictures]).data);
    let most = 0;
    let inside = 0;
    for (let i = 0; i < SIDE * SIDE; i++) {
      if (gathered.state[i] !== 1) continue;
      inside++;
      for (let k = 0; k < 3; k++) {
        most = Math.max(
          most,
          Math.abs(gathered.baseColour[4 * i + k] - colour[3 * i + k]),
          Math.abs(gathered.normal[3 * i + k] - normal[3 * i + k]),
        );
        if (k > 0) most = Math.max(most, Math.abs(gathered.orm[3 * i + k] - orm[3 * i + k]));
      }
    }
    expect(inside).toBeGreaterThan(0.7 * SIDE * SIDE);
    expect(most).toBeLessThanOrEqual(1);
    expect(counts.lost).toBe(0);
  });
  // IEC 61966-2-1: half the light of full white is 188 of 255.
  it('a checker of black and white twice as fine is 188 all over: colours are meant in light', () => {
    const mesh = pane(100, 100);
    const checker = painted(256, 3, (x, y) => {
      const on = (Math.floor(256 * x) + Math.floor(256 * y)) % 2;
      return [on, on, on];
    });
    const { gathered } = gatherAll(
      prepareGather({ parts: [part(mesh, mesh, textured([use('c', 'baseColour')]))], size: 128, picture: shelf({ c: checker }) }),
    );
    for (let i = 0; i < 128 * 128; i++) expect(Math.abs(gathered.baseColour[4 * i] - 188)).toBeLessThanOrEqual(1);
  });
  it('what is sixteen times as fine is read from smaller levels, its mean kept', () => {
    const mesh = pane(100, 100);
    const fine = painted(1024, 3, (x) => [Math.floor(1024 * x) % 2, 0.5, 0.25]);
    const { gathered } = gatherAll(
      prepareGather({ parts: [part(mesh, mesh, textured([use('c', 'baseColour')]))], size: 64, picture: shelf({ c: fine }) }),
    );
    for (const i of [0, 1000, 2080, 4095]) {
      expect(Math.abs(gathered.baseColour[4 * i] - 188)).toBeLessThanOrEqual(1);
      expect(Math.abs(gathered.baseColour[4 * i + 1] - 128)).toBeLessThanOrEqual(1);
    }
    expect([1, 1.04, 1.4, 2, 7.2, 40].map(samplesFor)).toEqual([1, 1, 2, 2, 8, 8]);
  });
  it.each([
    [
      'turned and made smaller',
      (u: number, v: number) => [0.5 + 0.6 * (u - 0.5) - 0.3 * (v - 0.5), 0.5 + 0.3 * (u - 0.5) + 0.6 * (v - 0.5)],
    ],
    ['mirrored', (u: number, v: number) => [1 - u, v]],
  ] as [string, (u: number, v: number) => [number, number]][])(
    'onto islands that are %s it shows the same: colour, finish, normals',
    (_, to) => {
      const mesh = crate(100);
      const target = relaid(mesh, to);
      const job = prepareGather({ parts: [part(mesh, target, textured(FULL))], size: 512, picture: shelf(pictures) });
      const { gathered } = gatherAll(job);
      const { channels, lost, meanColourOff } = compareGathered(job, gathered, [areasOf(mesh)], COMPARED);
      expect(lost).toBe(0);
      expect(meanColourOff).toBeLessThan(0.5);
      expect(channels['base colour']?.p95).toBeLessThan(2);
      expect(channels.roughness?.p95).toBeLessThan(2);
      expect(channels.normal?.p95).toBeLessThan(0.7);
      expect(channels.normal?.mean).toBeLessThan(0.4);
    },
  );
  it('repeated three times round a drum: each island has its own third, as the picture says', () => {
    const mesh = drum(60, 150, 32, 3);
    const target = second(mesh, 512);
    const job = prepareGather({
      parts: [part(mesh, target, textured(FULL, { baseColour: [0.8, 0.6, 0.4, 1] }))],
      size: 512,
      picture: shelf(pictures),
    });
    const { gathered } = gatherAll(job);
    const { channels, meanColourOff } = compareGathered(job, gathered, [areasOf(mesh)], COMPARED);
    expect(meanColourOff).toBeLessThan(1);
    expect(channels['base colour']?.mean).toBeLessThan(2);
    expect(channels.normal?.p95).toBeLessThan(1);
  });
  it('wraps, squares, moves and channels are those of the material', () => {
    const mesh = pane(100, 100);
    const four = painted(2, 3, (x, y) => [x > 0.5 ? 1 : 0, y > 0.5 ? 1 : 0, 0]);
    const at = (uses: TextureUse[], u: number, v: number, more: Partial<Texturing> = {}) => {
      const job = prepareGather({ parts: [part(mesh, mesh, textured(uses, more))], size: 16, picture: shelf({ four }) });
      const i = Math.floor((1 - v) * 16) * 16 + Math.floor(u * 16);
      const { gathered } = gatherAll(job);
      return {
        colour: [...gathered.baseColour.slice(4 * i, 4 * i + 3)],
        rough: gathered.orm[3 * i + 1],
        alpha: gathered.baseColour[4 * i + 3],
      };
    };
    const twice = use('four', 'baseColour', { scale: [2, 2], nearest: true });
    expect(at([twice], 0.1, 0.9).colour).toEqual([0, 0, 0]);
    expect(at([twice], 0.6, 0.9).colour).toEqual([0, 0, 0]);
    expect(at([{ ...twice, wrap: ['mirror', 'repeat'] }], 0.6, 0.9).colour).toEqual([255, 0, 0]);
    expect(at([{ ...twice, wrap: ['clamp', 'clamp'] }], 0.95, 0.05).colour).toEqual([255, 255, 0]);
    expect(at([use('four', 'roughness', { channel: 1, nearest: true })], 0.5, 0.1, { roughness: 0.5 }).rough).toBe(128);
    expect(at([use('four', 'alpha', { channel: 0, nearest: true })], 0.9, 0.5, { alpha: 'blend', baseColour: [1, 1, 1, 0.5] }).alpha).toBe(
      128,
    );
    // Alpha counts for nothing where the material is opaque.
    expect(at([use('four', 'alpha', { channel: 0 })], 0.1, 0.5).alpha).toBe(255);
  });
  it('under what is clear no colour bleeds from', () => {
    const mesh = pane(100, 100);
    const half = painted(64, 4, (x) => (Math.floor(64 * x) % 2 === 0 ? [1, 0, 0, 1] : [0, 1, 0, 0]));
    const job = prepareGather({
      parts: [part(mesh, mesh, textured([use('h', 'baseColour'), use('h', 'alpha', { channel: 3 })], { alpha: 'blend' }))],
      size: 32,
      picture: shelf({ h: half }),
    });
    const { gathered } = gatherAll(job);
    const [r, g, , a] = gathered.baseColour.slice(4 * 500, 4 * 501);
    expect(r).toBeGreaterThan(253);
    expect(g).toBeLessThan(20);
    expect(Math.abs(a - 128)).toBeLessThanOrEqual(1);
  });
  it('what lets light through says how much, by its number and its picture', () => {
    const mesh = pane(100, 100);
    const half = painted(8, 3, (x) => [x < 0.5 ? 1 : 0.5, 0, 0]);
    const uses = [use('h', 'transmission', { channel: 0, nearest: true })];
    const job = prepareGather({ parts: [part(mesh, mesh, textured(uses, { transmission: 0.8 }))], size: 16, picture: shelf({ h: half }) });
    expect(job.looks[0].clear).toBe(true);
    const { gathered } = gatherAll(job);
    expect([gathered.transmission[8 * 16 + 2], gathered.transmission[8 * 16 + 13]]).toEqual([204, 102]);
    // A number alone does it too: glass with a painted colour is no opaque part.
    const plain = prepareGather({ parts: [part(mesh, mesh, textured([], { transmission: 0.5 }))], size: 16, picture: shelf({}) });
    expect([plain.looks[0].clear, gatherAll(plain).gathered.transmission[100]]).toEqual([true, 128]);
  });
  it('more than can be held unpacked is one sentence', () => {
    const mesh = pane(100, 100);
    const huge = (): Pixels => ({ width: 8192, height: 8192, channels: 4, depth: 8, data: { length: 1.7e9 } as never });
    expect(() => prepareGather({ parts: [part(mesh, mesh, textured([use('h', 'baseColour')]))], size: 32, picture: huge })).toThrow(
      /more than 1.6 GB unpacked/,
    );
  });
});

describe('normals in another frame', () => {
  const low = sheet(6, 40, (x, z) => 4 * Math.cos(x / 14) * Math.cos(z / 12));
  const dense = sheet(96, 40, (x, z) => 4 * Math.cos(x / 14) * Math.cos(z / 12) + 0.4 * Math.sin(x / 2) * Math.cos(z / 3));
  const withUv = relaid(withAttribute(low, { name: 'uv', domain: 'corner', size: 2, data: flat(low) }), (u, v) => [
    0.1 + 0.8 * u,
    0.1 + 0.8 * v,
  ]);
  /** Seen from above. */
  function flat(mesh: PolyMesh): Float64Array {
    return Float64Array.from(mesh.faceVert).reduce(
      (out, v, c) => {
        out[2 * c] = mesh.positions[3 * v] / 40 + 0.5;
        out[2 * c + 1] = 0.5 - mesh.positions[3 * v + 2] / 40;
        return out;
      },
      new Float64Array(2 * mesh.faceVert.length),
    );
  }
  const bakedOn = (mesh: PolyMesh, size: number) => {
    const of = (m: PolyMesh) => [{ id: 'p', name: 'p', mesh: m, placements: [IDENTITY] }];
    const settings = { ...BAKE_DEFAULTS, size, samples: 2 as const, occlusion: false, curvature: false, padding: 4 };
    return bakeTexels(prepareBake(of(mesh), of(dense), new Map([['p', { role: 'body' as const, moves: false }]]), settings).prepared);
  };
  it.each([
    ['turned by 30°', (u: number, v: number) => turn(u, v, 30, 1)],
    ['mirrored', (u: number, v: number) => turn(u, v, 0, -1)],
    ['mirrored and turned', (u: number, v: number) => turn(u, v, 110, -1)],
  ] as [string, (u: number, v: number) => [number, number]][])('%s: within half a degree of baking there directly', (_, to) => {
    const size = 512;
    const from = bakedOn(withUv, size);
    const map = encodePng(packNormals(from.normal, size, { y: 'up', bits: 8 }));
    const target = relaid(withUv, to);
    const job = prepareGather({ parts: [part(withUv, target, textured([use('n', 'normal')]))], size, picture: shelf({ n: map }) });
    const { gathered } = gatherAll(job);
    const direct = bakedOn(target, size);
    const off: number[] = [];
    for (let i = 0; i < size * size; i++) {
      if (gathered.state[i] !== 1 || direct.state[i] !== 1) continue;
      const [a, b] = [[0, 1, 2].map((k) => gathered.normal[3 * i + k] / 127.5 - 1), [...direct.normal.slice(3 * i, 3 * i + 3)]];
      const dot = a.reduce((n, x, k) => n + x * b[k], 0) / (Math.hypot(...a) * Math.hypot(...b));
      off.push((Math.acos(Math.min(1, dot)) * 180) / Math.PI);
    }
    off.sort((a, b) => a - b);
    expect(off.length).toBeGreaterThan(0.2 * size * size);
    expect(off[Math.floor(0.95 * off.length)]).toBeLessThan(0.5);
    // Something was there to be turned.
    expect(from.normal.reduce((most, x, i) => (i % 3 === 0 ? Math.max(most, x) : most), 0)).toBeGreaterThan(0.15);
  });
  function turn(u: number, v: number, degrees: number, mirror: number): [number, number] {
    const a = (degrees * Math.PI) / 180;
    const [x, y] = [0.7 * mirror * (u - 0.5), 0.7 * (v - 0.5)];
    return [0.5 + Math.cos(a) * x - Math.sin(a) * y, 0.5 + Math.sin(a) * x + Math.cos(a) * y];
  }
});

describe('from another mesh of the same surface', () => {
  const dome = (n: number) => sheet(n, 40, (x, z) => 6 * Math.cos(x / 16) * Math.cos(z / 13));
  const laid = (mesh: PolyMesh, k = 1): PolyMesh => {
    const uv = new Float64Array(2 * mesh.faceVert.length);
    for (const [c, v] of mesh.faceVert.entries())
      uv.set([k * (mesh.positions[3 * v] / 40 + 0.5), k * (0.5 - mesh.positions[3 * v + 2] / 40)], 2 * c);
    return withAttribute(mesh, { name: 'uv', domain: 'corner', size: 2, data: uv });
  };
  it('a level with a sixteenth of its faces has the picture of the fine one, at the nearest places', () => {
    const [fine, coarse] = [laid(dome(24)), laid(dome(6), 0.9)];
    const job = prepareGather({ parts: [part(fine, coarse, textured(FULL))], size: 256, picture: shelf(pictures) });
    expect(job.parts[0].across.kind).toBe('nearest');
    const { gathered, counts } = gatherAll(job);
    expect(counts.lost / counts.samples).toBeLessThan(0.001);
    const { channels } = compareGathered(job, gathered, [areasOf(coarse)], ['base colour', 'roughness']);
    expect(channels['base colour']?.mean).toBeLessThan(3);
  });
  it('a sheet’s other side is not taken for this one', () => {
    const [front, behind] = [pane(100, 100), relaid(pane(100, 100), (u, v) => [u, v])];
    const turned = { ...behind, positions: behind.positions.map((x, i) => (i % 3 === 0 ? -x : i % 3 === 2 ? x - 0.5 : x)) };
    const job = prepareGather({
      parts: [part(turned, front, textured([use('colour', 'baseColour')]))],
      size: 64,
      picture: shelf(pictures),
    });
    const { counts } = gatherAll(job);
    expect(counts.lost).toBe(counts.samples);
  });
});
