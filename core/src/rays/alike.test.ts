import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import { Worker } from 'node:worker_threads';
import { afterEach, describe, expect, it } from 'vitest';
import { stormLantern } from '../../../demo/src/lantern';
import { sheet } from '../../test/shapes';
import { BandBaker } from '../bake/cast';
import { emptyTexels, type Texels } from '../bake/texels';
import { IDENTITY, translation } from '../maths/mat4';
import { random } from '../maths/random';
import { attribute, type PolyMesh, withAttribute } from '../mesh/polymesh';
import { transform } from '../mesh/transform';
import { type BakeSettings, type PreparedBake, prepareBake } from '../pipeline/bake';
import { bakeTexels } from '../pipeline/bake-finish';
import { BAKE_DEFAULTS, newDocument } from '../pipeline/document';
import type { PartMesh } from '../pipeline/form';
import { sceneOf, solveStage } from '../pipeline/render';
import { type Pass, traceTile } from '../render/film';
import { plainSceneMaterial, type Scene } from '../render/scene';
import { PathTracer } from '../render/tracer';
import { useReference } from './kernel/host';
import { type Allocate, PRIVATE, sharedRoom } from './tree';

const SETTINGS: BakeSettings = { ...BAKE_DEFAULTS, size: 96, samples: 2, occlusionRays: 8 };
const part = (id: string, mesh: PolyMesh): PartMesh => ({ id, name: id, mesh, placements: [IDENTITY] });

/** A rough sheet under a lid that slides, so that both what occludes and what is dark by itself are asked. */
function bakeOf(allocate: Allocate): PreparedBake {
  const next = random(3);
  const laid = sheet(3, 10, () => 0);
  const uv = (from: number) => Float64Array.from(attribute(laid, 'uv')?.data ?? [], (x, i) => (i % 2 === 0 ? from : 0.1) + 0.4 * x);
  const low = (from: number) => withAttribute(laid, { name: 'uv', domain: 'corner', size: 2, data: uv(from) });
  const high = sheet(24, 10, () => 0.4 * next());
  const up = (m: PolyMesh) => transform(m, translation([0, 3, 0]));
  return prepareBake(
    [part('base', low(0.05)), part('lid', up(low(0.55)))],
    [part('base', high), part('lid', up(high))],
    new Map([
      ['base', { role: 'body', moves: false }],
      ['lid', { role: 'body', moves: true }],
    ]),
    SETTINGS,
    undefined,
    allocate,
  );
}

const shared = (n: number) => new SharedArrayBuffer(n);
const SAME = ['normal', 'occlusion', 'curvature', 'state'] as const;
const expectAlike = (a: Texels, b: Texels) => {
  for (const key of SAME) expect([...a[key]]).toEqual([...b[key]]);
};

function sceneFor(allocate: Allocate): Scene {
  const next = random(4);
  const document = newDocument('', stormLantern().brief);
  const parts = [
    part(
      'a',
      sheet(16, 80, () => 12 * next()),
    ),
    part(
      'b',
      transform(
        sheet(4, 60, () => 30),
        translation([10, 0, 5]),
      ),
    ),
  ];
  const material = { id: 'm', name: 'm', colour: [0.7, 0.4, 0.2], metallic: 0, roughness: 0.4, ior: 1.5 } as never;
  return sceneOf(
    document,
    parts.map((p) => ({ part: p, material: 0 })),
    [{ ...plainSceneMaterial({ transmission: 0, coat: 0, coatRoughness: 0.1, emission: 0, ...(material as object) } as never) }],
    [],
    solveStage(document, parts),
    allocate,
  );
}
const PASSES: Pass[] = Array.from({ length: 9 }, (_, i) => ({
  tile: { x: 8 * (i % 3), y: 8 * Math.floor(i / 3), width: 8, height: 8 },
  width: 24,
  height: 24,
  from: 0,
  to: 4,
  seed: 5,
}));

const CODE = new URL('../../test/bake-worker.mjs', import.meta.url);
/** Some workers at one bake, each in its own lane; ends when all have. @param kill the first of them as soon as it has done one band */
async function together(workers: number, about: object, onMessage: (m: never) => void = () => {}, kill = false): Promise<void> {
  const next = new Int32Array(new SharedArrayBuffer(4));
  await Promise.all(
    Array.from({ length: workers }, (_, i) => {
      const worker = new Worker(CODE, { workerData: { ...about, next, lane: i + 1 } });
      worker.on('message', (m) => {
        onMessage(m as never);
        if (kill && i === 0) void worker.terminate();
      });
      return new Promise<void>((resolve, reject) => {
        worker.once('exit', () => resolve());
        worker.once('error', reject);
      });
    }),
  );
}

afterEach(() => useReference(false));

describe('a whole bake', () => {
  const alone = bakeTexels(bakeOf(PRIVATE).prepared);

  it('is the same bytes by the kernel and by its twin', () => {
    expect(alone.counts.rays).toBeGreaterThan(50_000);
    useReference(true);
    expectAlike(bakeTexels(bakeOf(PRIVATE).prepared), alone);
  });

  it('is the same bytes from 1, 2 and 4 workers on one memory', async () => {
    const { prepared } = bakeOf(sharedRoom());
    expect(prepared.scene?.memory).toBeDefined();
    for (const workers of [1, 2, 4]) {
      const texels = emptyTexels(prepared, shared);
      await together(workers, { prepared, texels });
      expectAlike(texels, alone);
    }
  });

  it('comes right after a worker was killed in the middle of it', async () => {
    const { prepared } = bakeOf(sharedRoom());
    await together(2, { prepared, texels: emptyTexels(prepared, shared) }, undefined, true);
    const texels = emptyTexels(prepared, shared);
    await together(2, { prepared, texels });
    expectAlike(texels, alone);
  });

  it('a hundred times in a row, most of them given up, takes no more memory than at first', () => {
    setFlagsFromString('--expose-gc');
    const gc = runInNewContext('gc') as () => void;
    const taken = (): number => {
      gc();
      const { rss, external } = process.memoryUsage();
      return Math.max(rss, external);
    };
    let early = 0;
    for (let i = 1; i <= 100; i++) {
      const { prepared } = bakeOf(sharedRoom());
      new BandBaker(prepared, emptyTexels(prepared, shared)).bake(i % 3);
      if (i === 20) early = taken();
    }
    expect(taken()).toBeLessThan(early + 60e6);
  });
});

describe('a whole picture', () => {
  const tracer = new PathTracer(sceneFor(PRIVATE));
  const alone = PASSES.map((pass) => traceTile(tracer, pass));

  it('is the same bytes by the kernel and by its twin', () => {
    expect(tracer.rays).toBeGreaterThan(5000);
    useReference(true);
    const twin = new PathTracer(sceneFor(PRIVATE));
    expect(PASSES.map((pass) => traceTile(twin, pass))).toEqual(alone);
  });

  it('is the same bytes from 1, 2 and 4 workers on one memory', async () => {
    const scene = sceneFor(sharedRoom());
    for (const workers of [1, 2, 4]) {
      const got: unknown[] = [];
      await together(workers, { scene, passes: PASSES }, ({ tile, halves }: { tile: number; halves: unknown }) => {
        got[tile] = halves;
      });
      expect(got).toEqual(alone);
    }
  });
});
