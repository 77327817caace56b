import { decode } from 'fast-png';
import { PNG } from 'pngjs';
import { describe, expect, it } from 'vitest';
import { cube, sheet } from '../../test/shapes';
import { briefFor } from '../brief/brief';
import { encodePng } from '../image/png';
import { irradiance } from '../light/lamps';
import { IDENTITY, translation } from '../maths/mat4';
import { merge } from '../mesh/merge';
import { cornerNormals } from '../mesh/normals';
import { attribute, type PolyMesh, triangleCount, withAttribute } from '../mesh/polymesh';
import { type BakeSettings, prepareBake } from '../pipeline/bake';
import { bake, bakeTexels } from '../pipeline/bake-finish';
import { BAKE_DEFAULTS, newDocument } from '../pipeline/document';
import { togetherAsOne } from '../pipeline/import';
import { solveStage } from '../pipeline/render';
import { seamsLit } from '../pipeline/seams-lit';
import { unwrap } from '../pipeline/unwrap';
import { cageOf } from './cage';
import { ringsFound } from './dilate';
import { leanOf, measureDistances } from './distances';
import { normalMap } from './maps/normal';
import { bandedShare } from './narrow';
import { highSide, lowShape } from './prepare';
import type { Texels } from './texels';

const part = (mesh: PolyMesh, id = 'p') => ({ id, name: id, mesh, placements: [IDENTITY] });
const settings = (more: Partial<BakeSettings> = {}): BakeSettings => ({
  ...BAKE_DEFAULTS,
  curvature: false,
  occlusion: false,
  size: 64,
  samples: 1,
  ...more,
});
const hard = (mesh: PolyMesh) =>
  withAttribute(mesh, { name: 'hard', domain: 'corner', size: 1, data: new Uint8Array(mesh.faceVert.length).fill(1) });
const laid = (mesh: PolyMesh) =>
  unwrap([part(mesh)], { size: 64, padding: 4, seamAngle: 50, rotate: true, weights: {}, regions: {} }).parts[0].mesh;

describe('directions of search', () => {
  it('averaged over a cube’s edges lean by acos(1/√3) everywhere, split not at all', () => {
    const box = hard(cube(20));
    const averaged = leanOf(lowShape(box));
    const split = leanOf(lowShape(box, undefined, 'split'));
    expect(averaged.mean).toBeCloseTo(54.7356, 3);
    expect(averaged.most).toBeCloseTo(54.7356, 3);
    expect(split.most).toBeCloseTo(0, 3);
  });
  it('where nothing is hard both are the same', () => {
    const bent = sheet(6, 10, (x) => 0.1 * x * x);
    expect(lowShape(bent, undefined, 'split').cage).toEqual(lowShape(bent).cage);
  });
  it('the cage of split ones is six squares apart, that of averaged ones one box', () => {
    const box = hard(cube(20));
    const front = new Float64Array(8).fill(1);
    expect(cageOf(box, front, new Float64Array(0)).length).toBe(6 * 12);
    const split = cageOf(box, front, new Float64Array(0), 'split');
    expect(split.length).toBe(6 * 24);
    // Each corner has moved straight out of one face: one of its three coordinates lies a millimetre off.
    for (let i = 0; i < split.length; i += 3)
      expect([0, 1, 2].filter((k) => Math.abs(Math.abs(split[i + k] - [0, 10, 0][k]) - 11) < 1e-5).length).toBe(1);
  });
  it('a box baked from the same box is right to a tenth of a degree where they are split: no ray leans', async () => {
    const low = laid(hard(cube(20)));
    const run = (directions: 'averaged' | 'split') =>
      bake([part(low)], [part(hard(cube(20)))], new Map(), settings({ directions, bits: 16 }), () => 0);
    const [averaged, split] = [await run('averaged'), await run('split')];
    expect(split.figures.pairs[0].lean?.most).toBeCloseTo(0, 3);
    expect(averaged.figures.pairs[0].lean?.mean).toBeGreaterThan(20);
    expect(split.figures.judgement?.worst).toBeLessThan(0.1);
    expect(split.figures.missedShare).toBe(0);
  });
});

describe('what more and less than the measured distances would come to', () => {
  const tried = (high: PolyMesh) => {
    const low = sheet(8, 10, () => 0);
    return measureDistances(low, lowShape(low), highSide(high)).trials;
  };
  it('less than a whole one misses a sheet that lies away by just that; more finds it still', () => {
    for (const t of tried(sheet(8, 10, () => 0.8))) {
      expect(t.of).toBeGreaterThan(100);
      expect(t.missed / t.of).toBe(t.times < 0.9 ? 1 : 0);
      expect(t.wrong).toBe(0);
    }
  });
  it('more meets the wall behind once it reaches beyond it', () => {
    // What is searched outward is 0.88 mm; another wall stands 3 mm away.
    const trials = tried(merge([sheet(8, 10, () => 0.8), sheet(8, 10, () => 3)]));
    expect(trials.map((t) => [t.times, t.wrong / t.of])).toEqual([
      [0.25, 0],
      [0.5, 0],
      [1, 0],
      [2, 0],
      [4, 1],
      [8, 1],
    ]);
  });
});

describe('steps of an 8-bit map', () => {
  /** A map that leans evenly from 0 to so many degrees. */
  const ramp = (degrees: number) => {
    const size = 128;
    const normal = new Float32Array(3 * size * size);
    for (let i = 0; i < size * size; i++) {
      const a = ((degrees * Math.PI) / 180) * ((i % size) / size);
      normal.set([Math.sin(a), 0, Math.cos(a)], 3 * i);
    }
    return { size, normal, state: new Uint8Array(size * size).fill(1) };
  };
  it('are broad where it changes slowly, and none where it is flat or quick', () => {
    // 127.5 · sin 1° over 128 texels is a step in 57 texels; sin 20° one in three.
    expect(bandedShare(ramp(1))).toBeGreaterThan(0.95);
    expect(bandedShare(ramp(20))).toBe(0);
    expect(bandedShare(ramp(0))).toBe(0);
  });
});

describe('beyond the islands', () => {
  const state = new Uint8Array(16 * 16);
  for (let y = 6; y < 10; y++) for (let x = 6; x < 10; x++) state[16 * y + x] = 1;
  const normal = new Float32Array(3 * 256);
  for (let i = 0; i < 256; i++) if (state[i]) normal.set([0.6, 0, 0.8], 3 * i);
  const red = (within: number, missed = false) => {
    const found = state.slice();
    // A hole of what was missed is filled, however large it is.
    if (missed) for (let x = 10; x < 16; x++) found[16 * 7 + x] = 2;
    const map = normalMap({ size: 16, normal, state: found } as never, { y: 'up', bits: 8 }, ringsFound(found, 16, within));
    return Array.from({ length: 16 }, (_, x) => map.data[3 * (16 * 7 + x)]);
  };
  it('values are carried as far as is wanted, or to the rim', () => {
    expect(red(0).every((r) => r === 204)).toBe(true);
    expect(red(2)).toEqual([128, 128, 128, 128, 204, 204, 204, 204, 204, 204, 204, 204, 128, 128, 128, 128]);
    expect(red(2, true).slice(10)).toEqual([204, 204, 204, 204, 204, 204]);
  });
});

describe('neighbours', () => {
  const floor = sheet(4, 20, () => 0);
  const wall = part(
    { ...sheet(1, 20, () => 0), positions: Float64Array.from([2, 0, -10, 2, 0, 10, 2, 20, -10, 2, 20, 10]) } as PolyMesh,
    'wall',
  );
  const texels = (more: Partial<BakeSettings>) =>
    bakeTexels(
      prepareBake(
        [part(floor)],
        [part(floor), wall],
        new Map(),
        settings({ occlusion: true, occlusionRays: 64, size: 32, further: ['bentNormal'], ...more }),
      ).prepared,
    );
  it('are let in or kept out for each map: each is as where both do the same', () => {
    const [both, none] = [texels({}), texels({ neighbours: false, bentNeighbours: false })];
    expect(none.occlusion.every((o, i) => none.state[i] !== 1 || o === 1)).toBe(true);
    expect(both.occlusion.some((o, i) => both.state[i] === 1 && o < 0.8)).toBe(true);
    const dark = texels({ bentNeighbours: false });
    expect(dark.occlusion).toEqual(both.occlusion);
    expect(dark.bentNormal).toEqual(none.bentNormal);
    const bent = texels({ neighbours: false });
    expect(bent.occlusion).toEqual(none.occlusion);
    expect(bent.bentNormal).toEqual(both.bentNormal);
  });
  it('the ground darkens a part that stands for itself alone: its foot sees only the upper half', () => {
    const foot = (ground: boolean) => {
      const more = { occlusion: true, occlusionRays: 256, size: 32, neighbours: false, ground, reachMm: 1000 };
      const { prepared } = prepareBake([wall], [wall, part(floor)], new Map(), settings(more));
      const found = bakeTexels({ ...prepared, further: ['position'] });
      const low = Array.from(found.state.keys()).filter((i) => found.state[i] === 1 && found.position[3 * i + 1] < 1.2);
      return low.reduce((sum, i) => sum + found.occlusion[i], 0) / low.length;
    };
    expect(foot(false)).toBe(1);
    // An upright surface sees as much ground as sky: cosine-weighted, half of all.
    expect(foot(true)).toBeCloseTo(0.5, 1);
  });
});

describe('a drawer', () => {
  const box = (y: number) => sheet(4, 20, () => y);
  const lid = part(box(1), 'lid');
  const about = new Map([['lid', { role: 'body' as const, moves: true, opens: translation([60, 0, 0]) }]]);
  const of = (more: Partial<BakeSettings>) =>
    bakeTexels(
      prepareBake(
        [part(box(0)), lid],
        [part(box(0)), lid],
        about,
        settings({ occlusion: true, occlusionRays: 32, size: 32, further: ['position'], ...more }),
      ).prepared,
    );
  it('shut darkens what it covers, open it doesn’t, and what says where it stands is the same', () => {
    const [alone, shut, open] = [of({}), of({ movingOcclude: true }), of({ movingOpen: true })];
    const mean = (t: Texels) => t.occlusion.reduce((s, x) => s + x, 0) / t.occlusion.length;
    expect(mean(shut)).toBeLessThan(0.8 * mean(alone));
    expect(mean(open)).toBeGreaterThan(0.99 * mean(alone));
    expect(open.position).toEqual(alone.position);
  });
});

describe('several high meshes for a part', () => {
  it('are one, and what has no normals of its own keeps those it shades with', () => {
    const smooth = cube(10);
    const own = withAttribute(cube(4, [20, 0, 0]), {
      name: 'normal',
      domain: 'corner',
      size: 3,
      data: Float64Array.from({ length: 72 }, (_, i) => (i % 3 === 1 ? 1 : 0)),
    });
    const one = togetherAsOne([smooth, own]);
    expect(triangleCount(one)).toBe(24);
    const normals = attribute(one, 'normal', 'corner')?.data ?? [];
    expect([...normals.slice(0, 72)]).toEqual([...cornerNormals(smooth, { hardAngle: 60 })]);
    expect([...normals.slice(72)]).toEqual([...(attribute(own, 'normal')?.data ?? [])]);
    expect(attribute(togetherAsOne([smooth, smooth]), 'normal')).toBeUndefined();
  });
});

describe('seams under the lamps of the shot', () => {
  const document = newDocument('Box', briefFor('game'));
  const box = part(cube(100));
  const seam = (other: [number, number, number]) => ({
    id: 'p',
    at: [0, 50, 0] as [number, number, number],
    one: [0, 1, 0] as [number, number, number],
    other,
  });
  it('show as the light that a matt grey sends back on their two sides', () => {
    const tilt = (50 * Math.PI) / 180;
    const other: [number, number, number] = [0, Math.cos(tilt), -Math.sin(tilt)];
    const lit = seamsLit(document, [box], [seam([0, 1, 0]), seam(other), { ...seam(other), id: 'gone' }]);
    expect([lit.of, lit.seen]).toEqual([2, 1]);
    // The same by hand, straight: levels of sRGB (IEC 61966-2-1) of ½ E/(π L).
    const straight = { ...document, shot: { ...document.shot, tone: 'linear' as const } };
    const { rig, development } = solveStage(straight, [box]);
    const level = (n: [number, number, number]) => {
      const e = rig.lamps.reduce((s, l) => s + irradiance(l, [0, 50, 0], n), Math.PI * rig.environment[0]);
      const c = Math.min(1, (0.5 * e) / (Math.PI * development.full));
      return 255 * (c <= 0.0031308 ? 12.92 * c : 1.055 * c ** (1 / 2.4) - 0.055);
    };
    expect(seamsLit(straight, [box], [seam(other)]).worst).toBeCloseTo(Math.abs(level([0, 1, 0]) - level(other)), 6);
  });
});

describe('a 16-bit picture', () => {
  it('reads the same in two packages of others', () => {
    const data = Uint16Array.from({ length: 3 * 16 * 16 }, (_, i) => (i * 257 + 13 * (i % 7)) % 65536);
    const png = encodePng({ width: 16, height: 16, channels: 3, depth: 16, data });
    const one = PNG.sync.read(Buffer.from(png), { skipRescale: true }) as unknown as { data: Uint16Array; width: number };
    const two = decode(png);
    expect([one.width, two.depth, two.channels]).toEqual([16, 16, 3]);
    for (let i = 0; i < 256; i++)
      for (let k = 0; k < 3; k++) {
        expect(one.data[4 * i + k]).toBe(data[3 * i + k]);
        expect(two.data[3 * i + k]).toBe(data[3 * i + k]);
      }
  });
});
