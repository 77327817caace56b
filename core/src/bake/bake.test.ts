import { WebIO } from '@gltf-transform/core';
import { describe, expect, it } from 'vitest';
import { sheet } from '../../test/shapes';
import { decodePng, encodePng } from '../image/png';
import { IDENTITY, rotation, scaling } from '../maths/mat4';
import { random } from '../maths/random';
import { cornerNormals } from '../mesh/normals';
import { attribute, makeMesh, type PolyMesh, withAttribute } from '../mesh/polymesh';
import { transform } from '../mesh/transform';
import { type BakeSettings, prepareBake } from '../pipeline/bake';
import { bake, bakeTexels } from '../pipeline/bake-finish';
import { BAKE_DEFAULTS } from '../pipeline/document';
import { exportGlb } from '../pipeline/export';
import type { PartMesh } from '../pipeline/form';
import { RayQuery } from '../rays/query';
import { cageOf } from './cage';
import { checkDabs, laidDabs, painted } from './dabs';
import { dilate, ringsOf } from './dilate';
import { histogram, measureDistances, missedBy } from './distances';
import { highSide, lowSide } from './prepare';

const part = (mesh: PolyMesh): PartMesh => ({ id: 'p', name: 'p', mesh, placements: [IDENTITY] });
const settings = (more: Partial<BakeSettings> = {}): BakeSettings => ({
  ...BAKE_DEFAULTS,
  curvature: false,
  size: 64,
  samples: 1,
  occlusion: false,
  ...more,
});
const run = (low: PolyMesh, high: PolyMesh, more: Partial<BakeSettings> = {}) =>
  bake([part(low)], [part(high)], new Map(), settings(more), () => 0);
/** A bump that is the same in no direction. */
const bump = (x: number, z: number) =>
  0.6 * Math.exp(-((x - 1.2) ** 2 + (z + 0.7) ** 2) / 6) + 0.25 * Math.exp(-((x + 2.5) ** 2 + (z - 2) ** 2) / 2);
const flatLow = () => sheet(2, 10, () => 0);
const high = (n = 48) => sheet(n, 10, bump);

/** Turns (and mirrors) the layout of every face of a sheet: one island, another way up. */
function relaid(mesh: PolyMesh, quarter: number, mirror: boolean): PolyMesh {
  const uv = Float64Array.from(attribute(mesh, 'uv')?.data ?? []);
  for (let i = 0; i < uv.length; i += 2) {
    let [u, v] = [uv[i] - 0.5, uv[i + 1] - 0.5];
    if (mirror) u = -u;
    for (let q = 0; q < quarter; q++) [u, v] = [-v, u];
    uv[i] = u * 0.9 + 0.5;
    uv[i + 1] = v * 0.9 + 0.5;
  }
  return withAttribute(mesh, { name: 'uv', domain: 'corner', size: 2, data: uv });
}

/** Decodes an exported map on an exported mesh with nothing of ours but the file formats: mean angle to the true normal. */
async function independentError(glb: Uint8Array, png: Uint8Array, truth: (x: number, z: number) => number[]): Promise<number> {
  const document = await new WebIO().readBinary(glb);
  const p = document.getRoot().listMeshes()[0].listPrimitives()[0];
  const map = decodePng(png);
  const get = (name: string, v: number) => p.getAttribute(name)?.getElement(v, []) ?? [];
  let sum = 0;
  let n = 0;
  const index = p.getIndices();
  for (let t = 0; t < (index?.getCount() ?? 0) / 3; t++) {
    const vs = [0, 1, 2].map((k) => index?.getScalar(3 * t + k) ?? 0);
    for (const w of [
      [0.4, 0.35, 0.25],
      [0.2, 0.6, 0.2],
      [0.15, 0.25, 0.6],
    ]) {
      const mix = (name: string, size: number) =>
        Array.from({ length: size }, (_, k) => vs.reduce((s, v, j) => s + w[j] * get(name, v)[k], 0));
      const unit = (x: number[]) => x.map((y) => y / Math.hypot(...x));
      const [u, v] = mix('TEXCOORD_0', 2);
      // Bilinear, v down, as glTF says.
      const [x, y] = [u * map.width - 0.5, v * map.height - 0.5];
      const at = (i: number, j: number) => [0, 1, 2].map((k) => (map.data[map.channels * (j * map.width + i) + k] / 255) * 2 - 1);
      const [i, j] = [Math.floor(x), Math.floor(y)];
      const s = [0, 1, 2].map(
        (k) =>
          (at(i, j)[k] * (1 - x + i) + at(i + 1, j)[k] * (x - i)) * (1 - y + j) +
          (at(i, j + 1)[k] * (1 - x + i) + at(i + 1, j + 1)[k] * (x - i)) * (y - j),
      );
      const N = unit(mix('NORMAL', 3));
      const T = unit(mix('TANGENT', 4).slice(0, 3));
      const sign = get('TANGENT', vs[0])[3];
      const B = [N[1] * T[2] - N[2] * T[1], N[2] * T[0] - N[0] * T[2], N[0] * T[1] - N[1] * T[0]].map((c) => c * sign);
      const world = unit([0, 1, 2].map((k) => s[0] * T[k] + s[1] * B[k] + s[2] * N[k]));
      const at3 = mix('POSITION', 3);
      const want = truth(at3[0] * 1000, at3[2] * 1000);
      sum += Math.acos(
        Math.min(
          1,
          world.reduce((a, c, k) => a + c * want[k], 0),
        ),
      );
      n++;
    }
  }
  return ((sum / n) * 180) / Math.PI;
}
const trueNormal = (x: number, z: number): number[] => {
  const e = 1e-4;
  const n = [-(bump(x + e, z) - bump(x - e, z)) / (2 * e), 1, -(bump(x, z + e) - bump(x, z - e)) / (2 * e)];
  return n.map((c) => c / Math.hypot(...n));
};

describe('distances painted over the measured ones', () => {
  const dab = (more: object = {}) => ({ part: 'p', at: [1.5, 0, -1] as [number, number, number], radius: 2, front: 0, rear: 0, ...more });
  it('hold in the middle of the brush, fade out to its rim, and later ones lie over earlier ones', () => {
    const at = (dabs: ReturnType<typeof dab>[], x: number) => {
      const both = Float64Array.from([1, 2]);
      painted(laidDabs(dabs, 'p'), x, 0, -1, both);
      return [...both];
    };
    expect(at([dab()], 1.5)).toEqual([0, 0]);
    expect(at([dab()], 3.5)).toEqual([1, 2]);
    expect(at([dab({ part: 'other' })], 1.5)).toEqual([1, 2]);
    const [front] = at([dab()], 2.5);
    expect(front).toBeCloseTo(1 - (1 - 0.0625) ** 2, 9);
    expect(at([dab(), dab({ front: 3, rear: 4 })], 1.5)).toEqual([3, 4]);
  });
  it('too short in one place rays miss there and only there; taken away, the measured ones are back to the bit', async () => {
    const low = relaid(flatLow(), 0, false);
    const texels = (dabs: ReturnType<typeof dab>[]) =>
      bakeTexels(prepareBake([part(low)], [part(high())], new Map(), settings({ dabs })).prepared);
    const [bare, short, other] = [texels([]), texels([dab()]), texels([dab({ part: 'other' })])];
    expect(other.normal).toEqual(bare.normal);
    expect(bare.counts.missed).toEqual([0]);
    let missed = 0;
    for (let j = 0; j < 64; j++)
      for (let i = 0; i < 64; i++) {
        // The layout is laid over 0.05 … 0.95 of the tile.
        const [x, z] = [((i + 0.5) / 64 - 0.5) / 0.09, ((j + 0.5) / 64 - 0.5) / 0.09];
        if (short.state[64 * j + i] !== 2) continue;
        missed++;
        expect(Math.hypot(x - 1.5, z + 1)).toBeLessThan(2);
      }
    expect(missed).toBeGreaterThan(20);
    expect(short.counts.missed).toEqual([missed]);
  });
  it('what is no dab is refused in a sentence', () => {
    expect(checkDabs([dab()])).toEqual([dab()]);
    expect(() => checkDabs([dab({ radius: 0 })])).toThrow(/brush and distances/);
    expect(() => checkDabs([dab({ at: [1, 2] })])).toThrow(/where it is/);
    expect(() => checkDabs('all')).toThrow(/list/);
    expect(() => checkDabs(Array.from({ length: 2001 }, () => dab()))).toThrow(/No more than 2000/);
  });
  it('the cage is every edge moved out by them', () => {
    const low = sheet(2, 10, () => 0);
    const lines = cageOf(low, new Float64Array(9).fill(0.5), laidDabs([dab({ at: [0, 0, 0], radius: 1, front: 3, rear: 1 })], 'p'));
    expect(lines.length).toBe(6 * 12);
    const heights = new Map(Array.from({ length: 24 }, (_, i) => [`${lines[3 * i]},${lines[3 * i + 2]}`, lines[3 * i + 1]]));
    expect(heights.get('5,5')).toBeCloseTo(0.5, 6);
    expect(heights.get('0,0')).toBeCloseTo(3, 6);
  });
});

describe('the tangent normal map', () => {
  it.each([
    [0, false],
    [1, false],
    [2, false],
    [3, false],
    [0, true],
    [1, true],
  ])('an asymmetric bump, layout turned %i quarters, mirrored %s: under 1° by an independent decoder', async (quarter, mirror) => {
    const low = relaid(
      sheet(4, 10, () => 0),
      quarter,
      mirror,
    );
    const made = await run(low, high(), { size: 256 });
    const glb = await exportGlb([part(low)], { name: 'p', tangents: true, materials: [], materialOf: () => null });
    expect(await independentError(glb, made.files.normal as Uint8Array, trueNormal)).toBeLessThan(1);
  });
  it('Y down is 255 − G of Y up, and nothing else differs', async () => {
    const up = decodePng((await run(relaid(flatLow(), 1, true), high())).files.normal as Uint8Array);
    const down = decodePng((await run(relaid(flatLow(), 1, true), high(), { y: 'down' })).files.normal as Uint8Array);
    for (let i = 0; i < up.data.length; i += 3) {
      expect(down.data[i]).toBe(up.data[i]);
      expect(Math.abs(down.data[i + 1] - (255 - up.data[i + 1]))).toBeLessThanOrEqual(1);
      expect(down.data[i + 2]).toBe(up.data[i + 2]);
    }
  });
  it('a flat pair gives (128, 128, 255) everywhere, which itself decodes to 0.32°', async () => {
    const made = await run(
      relaid(flatLow(), 0, false),
      sheet(8, 10, () => 0),
    );
    const map = decodePng(made.files.normal as Uint8Array);
    for (let i = 0; i < map.data.length; i += 3) expect([map.data[i], map.data[i + 1], map.data[i + 2]]).toEqual([128, 128, 255]);
    expect(made.figures.judgement?.mean).toBeLessThanOrEqual(0.33);
    expect(made.figures.judgement?.mean).toBeGreaterThan(0.3);
    expect(made.figures.missedShare).toBe(0);
    const fine = await run(
      relaid(flatLow(), 0, false),
      sheet(8, 10, () => 0),
      { bits: 16 },
    );
    expect(fine.figures.judgement?.mean).toBeLessThan(0.01);
    expect(decodePng(fine.files.normal as Uint8Array).depth).toBe(16);
  });
  it('is the same picture for more bands in another order, and 4 × 4 samples are no farther off than 1', async () => {
    const [one, four] = [
      await run(relaid(flatLow(), 0, false), high(), { samples: 1 }),
      await run(relaid(flatLow(), 0, false), high(), { samples: 4 }),
    ];
    expect(four.figures.judgement?.mean).toBeLessThanOrEqual((one.figures.judgement?.mean ?? 0) + 0.1);
    expect(four.figures.rays).toBeGreaterThan(5 * one.figures.rays);
    expect(four.figures.rays).toBeLessThan(8 * one.figures.rays);
    const again = await run(relaid(flatLow(), 0, false), high(), { samples: 1 });
    expect(again.files.normal).toEqual(one.files.normal);
  });
});

describe('distances', () => {
  const shifted = (d: number) =>
    transform(
      sheet(8, 10, () => 0),
      [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, d, 0, 1],
    );
  it.each([0.4, -0.7])('a sheet moved by %d mm needs just that, and a tenth more', (d) => {
    const low = relaid(flatLow(), 0, false);
    const measured = measureDistances(low, lowSide(low), highSide(shifted(d)));
    for (const s of measured.signed) expect(s).toBeCloseTo(d, 5);
    expect(d > 0 ? measured.uniform.front : measured.uniform.rear).toBeCloseTo(Math.abs(d) * 1.1, 4);
    expect(measured.lost).toBe(0);
    expect(missedBy(measured, 1, 1)).toBe(0);
    expect(missedBy(measured, 0.1, 0.1)).toBe(1);
    const h = histogram(measured.signed, 10);
    expect(h.counts.reduce((a, b) => a + b, 0)).toBe(measured.signed.length);
  });
  it('every vertex reaches at least what its triangles need, after smoothing too', () => {
    const next = random(6);
    const low = sheet(6, 10, () => 0);
    const field = sheet(30, 10, () => (next() - 0.5) * 1.5);
    const measured = measureDistances(low, lowSide(low), highSide(field));
    const query = new RayQuery(highSide(field).tree);
    for (let v = 0; v < low.positions.length / 3; v++) {
      const p = low.positions;
      if (query.closest(p[3 * v] * 0.999, 0, p[3 * v + 2] * 0.999, 0, 1, 0, -1e-6, 5))
        expect(measured.front[v]).toBeGreaterThan(query.t * 0.95);
    }
  });
  it('a bake with too short distances misses, is judged so, and told what would help', async () => {
    const low = relaid(flatLow(), 0, false);
    const short = await run(low, shifted(0.5), { distances: 'uniform', frontMm: 0.1, rearMm: 0.1 });
    expect(short.figures.missedShare).toBe(1);
    expect(short.figures.verdict?.level).toBe('over');
    expect(short.figures.verdict?.change).toMatch(/Search 0\.55\u00a0mm out/);
    const measured = await run(low, shifted(0.5));
    expect(measured.figures.missedShare).toBe(0);
    expect(measured.figures.verdict?.level).toBe('ok');
  });
  it('a high mesh that faces inward is told by its back faces', async () => {
    const away = transform(
      sheet(8, 10, () => 0),
      multiplyFlip(),
    );
    const made = await run(relaid(flatLow(), 0, false), away, { distances: 'uniform', frontMm: 1, rearMm: 1 });
    expect(made.figures.backShare).toBeGreaterThan(0.99);
    expect(made.figures.verdict?.sentence).toMatch(/back of the high mesh/);
  });
});
/** Upside down: turned half a turn about x. */
const multiplyFlip = () => rotation([1, 0, 0], Math.PI);

describe('occlusion', () => {
  it('is open on a plane and half open at the foot of an endless wall (cosine-weighted: exactly ½)', async () => {
    const floor = relaid(flatLow(), 0, false);
    const open = decodePng(
      (
        await run(
          floor,
          sheet(4, 10, () => 0),
          { occlusion: true, normal: false, occlusionRays: 64 },
        )
      ).files.occlusion as Uint8Array,
    );
    for (const x of open.data) expect(x).toBe(255);
    // A wall along x = 0, 400 mm wide and high; texels just beside it see half the sky.
    const wall = makeMesh({ positions: [0, 0, -400, 0, 0, 400, 0, 800, 400, 0, 800, -400], faceStart: [0, 4], faceVert: [0, 1, 2, 3] });
    const made = await bake(
      [part(floor)],
      [part(sheet(4, 10, () => 0)), { ...part(wall), id: 'wall', name: 'wall' }],
      new Map(),
      settings({ occlusion: true, normal: false, occlusionRays: 256, reachMm: 5000, size: 128 }),
      () => 0,
    );
    const map = decodePng(made.files.occlusion as Uint8Array);
    let sum = 0;
    for (let y = 40; y < 88; y++) sum += map.data[3 * (y * 128 + 65)] / 255 / 48;
    expect(sum).toBeCloseTo(0.5, 2);
  });
  it('glass and flames shade nothing', async () => {
    const floor = relaid(flatLow(), 0, false);
    const lid = transform(
      sheet(2, 40, () => 0),
      [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 3, 0, 1],
    );
    const parts = [part(sheet(4, 10, () => 0)), { ...part(lid), id: 'lid', name: 'lid' }];
    const mean = async (role: 'glass' | 'body') => {
      const made = await bake(
        [part(floor)],
        parts,
        new Map([['lid', { role, moves: false }]]),
        settings({ occlusion: true, normal: false }),
        () => 0,
      );
      const d = Array.from(decodePng(made.files.occlusion as Uint8Array).data);
      return d.reduce((s, x) => s + x, 0) / d.length;
    };
    expect(await mean('glass')).toBe(255);
    expect(await mean('body')).toBeLessThan(60);
  });
});

describe('pictures', () => {
  it('keep data as it is: 128 stays 128, and a low alpha keeps its colour (200, 100, 50, 3)', () => {
    const rgba = decodePng(
      encodePng({ width: 1, height: 2, channels: 4, depth: 8, data: Uint8Array.from([200, 100, 50, 3, 128, 128, 255, 255]) }),
    );
    expect([...rgba.data]).toEqual([200, 100, 50, 3, 128, 128, 255, 255]);
    const deep = decodePng(
      encodePng({ width: 2, height: 1, channels: 3, depth: 16, data: Uint16Array.from([1, 2, 65535, 256, 40000, 3]) }),
    );
    expect([...deep.data]).toEqual([1, 2, 65535, 256, 40000, 3]);
    expect(() => decodePng(Uint8Array.from([1, 2, 3]))).toThrow(/not a whole PNG/);
  });
  it('dilation fills the whole tile with neighbours’ means and leaves what was known', () => {
    const values = new Float32Array(64);
    const known = new Uint8Array(64);
    values[27] = 4;
    known[27] = 1;
    dilate(values, 1, ringsOf(known, 8));
    for (const v of values) expect(v).toBeCloseTo(4, 6);
  });
  it('normals stay unit under mirrors and turns of the high mesh', () => {
    for (const x of [scaling([-1, 1, 1]), rotation([0, 1, 0], 1)]) {
      const n = cornerNormals(transform(high(6), x));
      for (let i = 0; i < n.length; i += 3) expect(Math.hypot(n[i], n[i + 1], n[i + 2])).toBeCloseTo(1, 9);
    }
  });
});
