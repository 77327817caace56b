import { briefFor } from '@wellmorph/core/brief/brief';
import { newDocument } from '@wellmorph/core/pipeline/document';
import { formAsset } from '@wellmorph/core/pipeline/form';
import { solveStage, stageScene } from '@wellmorph/core/pipeline/render';
import { sharedRoom } from '@wellmorph/core/rays/tree';
import { type Pass, traceTile } from '@wellmorph/core/render/film';
import { PathTracer } from '@wellmorph/core/render/tracer';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { stepOf } from '../../../core/test/recipes';
import { type Bench, openBench, until } from '../../test/bench';
import type { Pool as RealPool, WorkError } from './pool';
import type { Ask, Work } from './protocol';

let bench: Bench;
let load: typeof import('./pool');
let pool: RealPool;
/** What was sent to the workers, oldest first; the threads are real. */
let sent: Ask<'tile'>[] = [];
let began = 0;
let Real: typeof Worker;

beforeAll(async () => {
  bench = await openBench();
  load = await import('./pool');
  Real = globalThis.Worker;
  globalThis.Worker = class extends Real {
    constructor(url: string | URL, options?: WorkerOptions) {
      super(url, options);
      began++;
    }
    override postMessage(message: unknown): void {
      sent.push(message as Ask<'tile'>);
      super.postMessage(message);
    }
  };
});
afterAll(async () => {
  globalThis.Worker = Real;
  await bench.close();
});
beforeEach(() => {
  pool = new load.Pool();
  sent = [];
  began = 0;
});

const document = {
  ...newDocument('Peg', briefFor('game')),
  form: { counts: {}, locks: { 'body.sides': 24 }, highToleranceMm: 0.05 },
  parts: [
    {
      id: 'peg',
      name: 'Peg',
      material: null,
      move: [0, 0, 0] as [number, number, number],
      turnDegrees: [0, 0, 0] as [number, number, number],
      declaredOpen: false,
      shape: { kind: 'recipe' as const, steps: [stepOf('turned', { id: 'body' })] },
    },
  ],
} as unknown as Work['form']['ask']['document'];
const form = (onProgress?: (share: number, words: string) => void, cancel?: Int32Array) =>
  pool.run('form', { document, meshes: {}, card: null }, onProgress, cancel);
const refusal = (work: Promise<unknown>) =>
  work.then(
    () => null,
    (e: WorkError) => e,
  );

describe('workers of a page', () => {
  it('are as many as the machine has cores, and one more; what comes on top waits and is done in order', async () => {
    expect(pool.size).toBe(pool.threads + 1);
    const names = Array.from({ length: 8 }, (_, i) => `Peg ${i}`);
    const made = await Promise.all(names.map((name) => pool.run('form', { document: { ...document, name }, meshes: {}, card: null })));
    expect(began).toBe(pool.size);
    expect(new Set(made.map((a) => a.figures.ledger.triangles)).size).toBe(1);
    // They were handed out as they were asked for; which of those under way ends first is chance.
    expect(sent.map((m) => (m as unknown as Ask<'form'>).ask.document.name)).toEqual(names);
  });

  it('are kept for what comes next', async () => {
    await form();
    await form();
    await form();
    expect(began).toBe(1);
  });

  it('one that dies is one sentence; what waits is done all the same, by another', async () => {
    const all = Array.from({ length: 6 }, () => refusal(form()));
    await until(() => bench.killWorker('form'), 'a worker at work');
    const ends = await Promise.all(all);
    const failed = ends.filter((e) => e !== null);
    expect(failed.map((e) => e.code)).toEqual(['worker/died']);
    expect(failed[0].message).toMatch(/nothing was changed\. Try it again\.$/);
    expect(began).toBeLessThanOrEqual(pool.size + 1);
    expect((await form()).figures.ledger.triangles).toBeGreaterThan(0);
  });

  it('stop when they are told to, before or while they work, and are free again', async () => {
    const flag = load.cancelFlag();
    Atomics.store(flag, 0, 1);
    expect((await refusal(pool.run('inspect', { document, meshes: {} }, undefined, flag)))?.code).toBe('cancelled');
    const look = load.cancelFlag();
    // So many that it is still at it when it has been heard of and told, however busy the machine is.
    const parts = Array.from({ length: 120 }, (_, i) => ({
      ...document.parts[0],
      id: `peg-${i}`,
      move: [60 * i, 0, 0] as [number, number, number],
    }));
    const stopped = refusal(pool.run('inspect', { document: { ...document, parts }, meshes: {} }, () => Atomics.store(look, 0, 1), look));
    expect((await stopped)?.code).toBe('cancelled');
    expect((await form()).whole).toBe(true);
  });

  it('what they can’t do is a sentence with its code, not the end of them', async () => {
    const nowhere = { ...document, parts: [{ ...document.parts[0], shape: { kind: 'mesh', low: { blob: 'gone' }, placements: [] } }] };
    const known = await refusal(pool.run('form', { document: nowhere as never, meshes: {}, card: null }));
    expect(known?.message).toMatch(/^[A-Z].+\.$/);
    const unknown = await refusal(pool.run('form', { document: null as never, meshes: {}, card: null }));
    expect(unknown?.message).toBe('The computation stopped unexpectedly; nothing was changed.');
    expect((await form()).whole).toBe(true);
    expect(began).toBe(1);
  });
});

describe('what many requests are about', () => {
  it('goes to each worker once, however often it is asked about, and gives what one thread gives', async () => {
    const none = () => {
      throw new Error('a recipe needs no stored mesh');
    };
    const { parts } = formAsset(document, 'low', none);
    const scene = stageScene(document, parts, {}, solveStage(document, parts), sharedRoom());
    const held = pool.hold(scene);
    const pass = (i: number): Pass => ({
      tile: { x: 8 * (i % 3), y: 8 * Math.floor(i / 3), width: 8, height: 8 },
      width: 24,
      height: 24,
      from: 0,
      to: 2,
      seed: 5,
    });
    const tiles = await Promise.all(Array.from({ length: 9 }, (_, i) => pool.run('tile', { pass: pass(i) }, undefined, undefined, held)));
    const tracer = new PathTracer(scene);
    tiles.forEach(({ halves }, i) => expect(halves).toEqual(traceTile(tracer, pass(i), () => false)));
    const about = sent.filter((m) => m.kind === 'tile');
    expect(about).toHaveLength(9);
    expect(about.filter((m) => m.held && 'value' in m.held).length).toBe(began);
    // Another thing that is held takes its place, and is told apart.
    const other = pool.hold(stageScene(document, parts, {}, solveStage(document, parts), (n) => new SharedArrayBuffer(n)));
    expect(other.id).not.toBe(held.id);
    sent = [];
    await pool.run('tile', { pass: pass(0) }, undefined, undefined, other);
    await pool.run('tile', { pass: pass(0) }, undefined, undefined, held);
    expect(sent.every((m) => m.held && 'value' in m.held)).toBe(true);
  });
});
