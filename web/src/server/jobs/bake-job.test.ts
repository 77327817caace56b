import { existsSync } from 'node:fs';
import { appendFile, readFile, rm, symlink } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { Worker } from 'node:worker_threads';
import { aboutParts, bakeSettings } from '@wellmorph/core/pipeline/bake';
import { bake } from '@wellmorph/core/pipeline/bake-finish';
import { encodeParts } from '@wellmorph/core/pipeline/bundle';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { formAsset, type PartMesh } from '@wellmorph/core/pipeline/form';
import { unlabelled } from '@wellmorph/core/pipeline/labels';
import { nameOf } from '@wellmorph/core/pipeline/results';
import { unwrap, unwrapSettings } from '@wellmorph/core/pipeline/unwrap';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { ask, type Bench, openBench } from '../../../test/bench';
import { smallPiece } from '../../../test/pieces';
import { builtWorker } from '../../../test/worker';

let bench: Bench;
let queue: typeof import('./queue');
let baking: typeof import('./bake-job')['baking'];
let folderOf: typeof import('./checkpoint')['folderOf'];
let real: (typeof baking)['thread'];

beforeAll(async () => {
  bench = await openBench();
  queue = await import('./queue');
  ({ baking } = await import('./bake-job'));
  ({ folderOf } = await import('./checkpoint'));
  const code = await builtWorker(resolve(import.meta.dirname, 'bake.worker.ts'));
  real = (wanted) => new Worker(code, { workerData: wanted });
}, 120_000);
beforeEach(() => {
  baking.thread = real;
  baking.threads = () => 2;
});
afterAll(() => bench.close());

const none = () => {
  throw new Error('a recipe needs no stored mesh');
};
/** Each piece is one of its own: results are shared by whatever is equal. */
let seed = 100;
/** A piece with its layout stored, and what its bake comes to on one thread. */
async function laidOut(occlusionRays: number): Promise<{ id: string; document: AssetDocument; laid: PartMesh[] }> {
  const assets = await import('../db/assets');
  const { keepBlob } = await import('../blobs/store');
  const { keepResult } = await import('../db/results');
  const raw = smallPiece('Baked in the queue', seed++);
  const document = { ...raw, bake: { ...raw.bake, occlusionRays, further: ['thickness' as const] } };
  const id = await assets.createAsset(document);
  const bare = unlabelled(document);
  const laid = unwrap(formAsset(bare, 'low', none).parts, unwrapSettings(bare));
  const parts = await keepBlob(encodeParts(laid.parts), 'parts');
  await keepResult({ name: nameOf(document, 'unwrap'), stage: 'unwrap', inputs: [], figures: laid.figures, blobs: { parts } });
  return { id, document, laid: laid.parts };
}
const onOneThread = ({ document, laid }: { document: AssetDocument; laid: PartMesh[] }) => {
  const bare = unlabelled(document);
  return bake(laid, formAsset(bare, 'high', none).parts, aboutParts(bare), bakeSettings(bare), () => 0);
};
const post = async (id: string) => {
  const answer = await ask(`/api/assets/${id}/jobs`, {
    method: 'POST',
    body: JSON.stringify({ baseVersion: 1, kind: 'bake', forecastSeconds: 3 }),
    headers: { 'content-type': 'application/json' },
  });
  return (await answer.json()) as { job: string; message?: string };
};
const turn = (job: string, what: string) =>
  ask(`/api/jobs/${job}`, { method: 'PATCH', body: JSON.stringify({ turn: what }), headers: { 'content-type': 'application/json' } });
const found = async (job: string) => (await queue.queueNow()).find((j) => j.id === job);
async function reaches(job: string, wanted: string): Promise<void> {
  let now: string | undefined;
  for (const end = Date.now() + 90_000; now !== wanted && Date.now() < end; await new Promise((r) => setTimeout(r, 20)))
    now = (await found(job))?.state;
  expect(now).toBe(wanted);
}
/** Bands of a job that are kept on disk. */
const kept = async (job: string): Promise<number[]> =>
  (await readFile(join(folderOf(job), 'bands'), 'utf8').catch(() => ''))
    .split('\n')
    .slice(1)
    .flatMap((line) => (line.endsWith('}') ? [(JSON.parse(line) as { band: number }).band] : []));
async function keeps(job: string, bands: number): Promise<void> {
  for (const end = Date.now() + 60_000; (await kept(job)).length < bands && Date.now() < end; ) await new Promise((r) => setTimeout(r, 10));
  expect((await kept(job)).length).toBeGreaterThanOrEqual(bands);
}
/** The blobs of a stored bake are what one thread bakes, byte for byte. */
async function sameAs(document: AssetDocument, made: Awaited<ReturnType<typeof onOneThread>>): Promise<void> {
  const { resultNamed } = await import('../db/results');
  const { readBlob } = await import('../blobs/store');
  const result = await resultNamed(nameOf(document, 'bake'));
  expect(result).toBeDefined();
  for (const name of ['normal', 'occlusion', 'thickness', 'thicknessExr', 'judged'] as const)
    expect(Buffer.from(made.files[name] as Uint8Array).equals(await readBlob(result?.blobs[name] as string)), name).toBe(true);
  const { seconds: _, ...figures } = result?.figures as typeof made.figures;
  const { seconds: __, ...wanted } = made.figures;
  expect(figures).toEqual(JSON.parse(JSON.stringify(wanted)));
}
/** Slows the threads that cast, so that something can happen in between. */
const slowly = (ms: number) => {
  baking.thread = (wanted) => {
    const worker = real(wanted);
    if (wanted.role === 'bands') {
      const post = worker.postMessage.bind(worker);
      worker.postMessage = (m: unknown) => setTimeout(() => post(m), ms);
    }
    return worker;
  };
};

describe('a bake in the queue', () => {
  it('comes to the same bytes and figures as on one thread, with a trial, and leaves nothing behind', async () => {
    const piece = await laidOut(4);
    const { job } = await post(piece.id);
    await reaches(job, 'done');
    await sameAs(piece.document, await onOneThread(piece));
    const { trialsOf } = await import('../db/trials');
    expect((await trialsOf(piece.id))[0]).toMatchObject({ stage: 'bake', title: expect.stringMatching(/queued$/) });
    expect(existsSync(folderOf(job))).toBe(false);
    expect((await post((await laidOut(4)).id)).job).toBeDefined();
  }, 120_000);

  it('put off and gone on with, it does only what was left, and comes to the same', async () => {
    const piece = await laidOut(5);
    slowly(60);
    const { job } = await post(piece.id);
    await keeps(job, 2);
    expect((await turn(job, 'pause')).status).toBe(200);
    await reaches(job, 'paused');
    const before = await kept(job);
    const cast: number[] = [];
    baking.thread = (wanted) => {
      const worker = real(wanted);
      if (wanted.role === 'bands') {
        const post = worker.postMessage.bind(worker);
        worker.postMessage = (m: unknown) => {
          cast.push(m as number);
          post(m);
        };
      }
      return worker;
    };
    expect((await turn(job, 'resume')).status).toBe(200);
    await reaches(job, 'done');
    expect(cast.length).toBeGreaterThan(0);
    for (const band of before) expect(cast).not.toContain(band);
    await sameAs(piece.document, await onOneThread(piece));
  }, 120_000);

  it('goes on after the process ended in the middle of it; a band that was half written is baked again', async () => {
    const piece = await laidOut(6);
    slowly(60);
    const { job } = await post(piece.id);
    await keeps(job, 3);
    // As it is found after the power went: the job is marked as running, its last line is cut short.
    expect((await turn(job, 'pause')).status).toBe(200);
    await reaches(job, 'paused');
    await appendFile(join(folderOf(job), 'bands'), '{"band":7,"coun');
    const store = await import('../db/jobs');
    await store.turnJob(job, 'paused', 'waiting');
    expect((await store.takeJob())?.id).toBe(job);
    await store.requeueRunning();
    baking.thread = real;
    await queue.turnQueue();
    await reaches(job, 'done');
    await sameAs(piece.document, await onOneThread(piece));
  }, 120_000);

  it('what was done but is gone is done again; stopped while it is put off, pages hear of it and nothing is kept', async () => {
    const piece = await laidOut(10);
    slowly(60);
    const { job } = await post(piece.id);
    await keeps(job, 2);
    await turn(job, 'pause');
    await reaches(job, 'paused');
    await rm(join(folderOf(job), 'texels'));
    baking.thread = real;
    await turn(job, 'resume');
    await reaches(job, 'done');
    await sameAs(piece.document, await onOneThread(piece));

    const other = await laidOut(11);
    slowly(60);
    const { job: off } = await post(other.id);
    await keeps(off, 1);
    await turn(off, 'pause');
    await reaches(off, 'paused');
    const { listen } = await import('../events');
    const heard: string[] = [];
    const end = listen((news) => news.kind === 'job' && news.job === off && heard.push(news.state));
    expect((await turn(off, 'stop')).status).toBe(200);
    end();
    expect(heard).toEqual(['stopped']);
    expect(existsSync(folderOf(off))).toBe(false);
  }, 120_000);

  it('a thread that dies is replaced, its band baked again; where that dies too it is one sentence and nothing is kept', async () => {
    const piece = await laidOut(7);
    let hired = 0;
    baking.thread = (wanted) => {
      const worker = real(wanted);
      if (wanted.role === 'bands' && hired++ === 0) void worker.terminate();
      return worker;
    };
    const { job } = await post(piece.id);
    await reaches(job, 'done');
    await sameAs(piece.document, await onOneThread(piece));

    const other = await laidOut(8);
    baking.thread = (wanted) => {
      const worker = real(wanted);
      if (wanted.role === 'bands') void worker.terminate();
      return worker;
    };
    const { job: bad } = await post(other.id);
    await reaches(bad, 'failed');
    expect((await found(bad))?.sentence).toMatch(/Two threads ended over the same rows/);
    expect(existsSync(folderOf(bad))).toBe(false);
    const { resultNamed } = await import('../db/results');
    expect(await resultNamed(nameOf(other.document, 'bake'))).toBeUndefined();
  }, 120_000);

  it('a disk that fills up is one sentence, and nothing half-written is left', async () => {
    const piece = await laidOut(12);
    slowly(60);
    const { job } = await post(piece.id);
    await keeps(job, 1);
    await turn(job, 'pause');
    await reaches(job, 'paused');
    // What is written there from now on finds no room.
    await rm(join(folderOf(job), 'bands'));
    await rm(join(folderOf(job), 'texels'));
    await symlink('/dev/full', join(folderOf(job), 'texels'));
    baking.thread = real;
    await turn(job, 'resume');
    await reaches(job, 'failed');
    expect((await found(job))?.sentence).toBe('The disk is full; nothing of this bake is kept. Free some space and queue it again.');
    expect(existsSync(folderOf(job))).toBe(false);
    const { resultNamed } = await import('../db/results');
    expect(await resultNamed(nameOf(piece.document, 'bake'))).toBeUndefined();
  }, 120_000);

  it('stopped it keeps nothing; without a layout, and twice, it is refused', async () => {
    const piece = await laidOut(9);
    slowly(100);
    const { job } = await post(piece.id);
    await keeps(job, 1);
    expect((await post(piece.id)).message).toMatch(/This very bake is in the queue already/);
    expect((await turn(job, 'stop')).status).toBe(200);
    await reaches(job, 'stopped');
    expect(existsSync(folderOf(job))).toBe(false);
    const assets = await import('../db/assets');
    const bare = await assets.createAsset(smallPiece('No layout', seed++));
    expect((await post(bare)).message).toMatch(/not stored in its present state/);
    expect((await turn('nothing', 'resume')).status).toBe(404);
  }, 120_000);
});
