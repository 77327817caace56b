import { existsSync } from 'node:fs';
import { open, readFile, writeFile } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { Worker } from 'node:worker_threads';
import { decodePng } from '@wellmorph/core/image/png';
import { encodeParts } from '@wellmorph/core/pipeline/bundle';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { formAsset } from '@wellmorph/core/pipeline/form';
import { nameOf } from '@wellmorph/core/pipeline/results';
import { solveAsset } from '@wellmorph/core/pipeline/solve';
import { TILE } from '@wellmorph/core/render/film';
import { CHANNELS } from '@wellmorph/core/render/tracer';
import { aneroidGauge } from '@wellmorph/demo/gauge';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { ask, type Bench, openBench } from '../../../test/bench';
import { builtWorker } from '../../../test/worker';

let bench: Bench;
let queue: typeof import('./queue');
let drawing: typeof import('./render-job')['drawing'];
let assets: typeof import('../db/assets');
let store: typeof import('../db/jobs');
let real: (typeof drawing)['thread'];

beforeAll(async () => {
  bench = await openBench();
  queue = await import('./queue');
  ({ drawing } = await import('./render-job'));
  assets = await import('../db/assets');
  store = await import('../db/jobs');
  const code = await builtWorker(resolve(import.meta.dirname, 'render.worker.ts'));
  real = (wanted) => new Worker(code, { workerData: wanted });
  drawing.thread = real;
}, 120_000);
afterAll(() => bench.close());

/** Each piece is one of its own: results are shared by whatever is equal. */
let seed = 1;
async function gauge(samples: number, formed = true): Promise<{ id: string; document: AssetDocument }> {
  const { keepBlob } = await import('../blobs/store');
  const { keepResult } = await import('../db/results');
  const raw = aneroidGauge();
  const document: AssetDocument = {
    ...raw,
    form: { ...raw.form, counts: solveAsset(raw).counts, locks: formed ? {} : { nothing: 3 } },
    shot: { ...raw.shot, widthPx: 48, heightPx: 32 },
    render: { ...raw.render, samples, maps: false, seed: seed++ },
  };
  const id = await assets.createAsset(document);
  if (formed) {
    const none = () => {
      throw new Error('a recipe needs no stored mesh');
    };
    const parts = await keepBlob(encodeParts(formAsset(document, 'low', none).parts), 'parts');
    await keepResult({ name: nameOf(document, 'form'), stage: 'form', inputs: [], figures: {}, blobs: { parts } });
  }
  return { id, document };
}
const post = (id: string, body: object = { baseVersion: 1, forecastSeconds: 7 }) =>
  ask(`/api/assets/${id}/jobs`, { method: 'POST', body: JSON.stringify(body), headers: { 'content-type': 'application/json' } });
const stop = (job: string) => ask(`/api/jobs/${job}`, { method: 'PATCH', body: JSON.stringify({ turn: 'stop' }) });
const listed = async () => (await (await ask('/api/jobs')).json()) as Awaited<ReturnType<typeof queue.queueNow>>;
const state = async (job: string) => (await listed()).find((j) => j.id === job)?.state;
async function reaches(job: string, wanted: string): Promise<void> {
  let now: string | undefined;
  for (const end = Date.now() + 60_000; now !== wanted && Date.now() < end; await new Promise((r) => setTimeout(r, 30)))
    now = await state(job);
  expect(now).toBe(wanted);
}

describe('the queue', () => {
  it('draws a picture on the server and keeps it with its figures and a trial', async () => {
    const { id, document } = await gauge(4);
    const answer = await post(id);
    expect(answer.status).toBe(201);
    const { job } = (await answer.json()) as { job: string };
    await reaches(job, 'done');
    const { resultNamed } = await import('../db/results');
    const { readBlob } = await import('../blobs/store');
    const { trialsOf } = await import('../db/trials');
    const result = await resultNamed(nameOf(document, 'render'));
    expect(result?.figures).toMatchObject({ width: 48, height: 32, samples: 4 });
    const png = decodePng(await readBlob(result?.blobs.png as string));
    expect([png.width, png.height]).toEqual([48, 32]);
    expect((await trialsOf(id))[0]).toMatchObject({ stage: 'render', thumbnail: result?.blobs.png });
  }, 90_000);
  it('refuses what is not stored in its present state, what is changed meanwhile, and the same picture twice', async () => {
    const { id } = await gauge(4, false);
    expect((await (await post(id)).json()).message).toMatch(/not stored in its present state/);
    // With maps it is drawn from a set that isn't there: said, and not drawn without.
    const mapped = await gauge(4);
    await assets.editAsset(mapped.id, 1, { type: 'render.set', patch: { maps: true } });
    expect((await (await post(mapped.id, { baseVersion: 2 })).json()).message).toMatch(/make it first/);
    expect((await post(id, { baseVersion: 9 })).status).toBe(409);
    expect((await post(id, { baseVersion: 'one' })).status).toBe(400);
    expect((await post('nobody')).status).toBe(404);
    const long = await gauge(20_000);
    const { job } = (await (await post(long.id)).json()) as { job: string };
    expect((await (await post(long.id)).json()).message).toMatch(/in the queue already/);
    expect((await stop(job)).status).toBe(200);
    await reaches(job, 'stopped');
  }, 90_000);
  it('keeps the order, shows how far the first is, and stops what runs and what waits', async () => {
    const [a, b] = [await gauge(20_000), await gauge(4)];
    const first = ((await (await post(a.id)).json()) as { job: string }).job;
    const second = ((await (await post(b.id)).json()) as { job: string }).job;
    await reaches(first, 'running');
    expect(await state(second)).toBe('waiting');
    const wait = (await listed()).find((j) => j.id === second);
    expect(wait).toMatchObject({ secondsLeft: 7, asset: 'Brass aneroid gauge', share: 0 });
    await stop(second);
    expect(await state(second)).toBe('stopped');
    await stop(first);
    await reaches(first, 'stopped');
    expect((await stop(first)).status).toBe(404);
    // Nothing of a stopped picture is kept.
    const { resultNamed } = await import('../db/results');
    expect(await resultNamed(nameOf(a.document, 'render'))).toBeUndefined();
  }, 90_000);
  it('held, what runs is put off with all it has done and nothing begins; let go, it goes on by itself', async () => {
    const hold = (held: boolean) =>
      ask('/api/queue', { method: 'PUT', body: JSON.stringify({ held }), headers: { 'content-type': 'application/json' } });
    const { folderOf } = await import('./checkpoint');
    const long = await gauge(3000);
    const { job } = (await (await post(long.id)).json()) as { job: string };
    await reaches(job, 'running');
    expect((await listed()).find((j) => j.id === job)?.endsIn).toBeGreaterThan(0);
    for (const end = Date.now() + 60_000; !existsSync(join(folderOf(job), 'tiles')) && Date.now() < end; )
      await new Promise((r) => setTimeout(r, 10));
    await hold(true);
    await reaches(job, 'waiting');
    expect(existsSync(folderOf(job))).toBe(true);
    const other = await gauge(4);
    const second = ((await (await post(other.id)).json()) as { job: string }).job;
    await new Promise((r) => setTimeout(r, 150));
    expect([await state(job), await state(second)]).toEqual(['waiting', 'waiting']);
    expect((await listed()).find((j) => j.id === job)?.endsIn).toBeNull();
    await hold(false);
    await reaches(job, 'running');
    await stop(job);
    await reaches(second, 'done');
  }, 90_000);
  it('by what is due: the piece with the nearest date is drawn first, however late it was asked for', async () => {
    const put = (body: object) =>
      ask('/api/queue', { method: 'PUT', body: JSON.stringify(body), headers: { 'content-type': 'application/json' } });
    await put({ held: true, order: 'due' });
    const order: string[] = [];
    for (const deadline of [null, '2027-03-01', '2026-12-24']) {
      const { id } = await gauge(4);
      await assets.editAsset(id, 1, { type: 'brief.set', patch: { deadline } });
      order.unshift(((await (await post(id, { baseVersion: 2 })).json()) as { job: string }).job);
    }
    expect((await listed()).filter((j) => j.state === 'waiting').map((j) => j.id)).toEqual(order);
    const done: string[] = [];
    const { listen } = await import('../events');
    const end = listen((n) => n.kind === 'job' && n.state === 'done' && done.push(n.job));
    await put({ held: false });
    for (const job of order) await reaches(job, 'done');
    end();
    expect(done).toEqual(order);
    await put({ order: 'asked' });
    expect((await put({ hours: { from: 25, to: 3 } })).status).toBe(400);
  }, 90_000);
  it('one that failed is tried again when asked', async () => {
    drawing.thread = () => new Worker('process.exit(3)', { eval: true });
    const { id } = await gauge(4);
    const { job } = (await (await post(id)).json()) as { job: string };
    await reaches(job, 'failed');
    drawing.thread = real;
    expect((await ask(`/api/jobs/${job}`, { method: 'PATCH', body: JSON.stringify({ turn: 'retry' }) })).status).toBe(200);
    await reaches(job, 'done');
    expect((await ask(`/api/jobs/${job}`, { method: 'PATCH', body: JSON.stringify({ turn: 'retry' }) })).status).toBe(404);
  }, 90_000);
  it('a thread that ends is one sentence, and the next job is drawn all the same', async () => {
    drawing.thread = () => new Worker('process.exit(3)', { eval: true });
    const bad = await gauge(4);
    const { job } = (await (await post(bad.id)).json()) as { job: string };
    await reaches(job, 'failed');
    expect((await listed()).find((j) => j.id === job)?.sentence).toMatch(/put it in the queue again/);
    drawing.thread = real;
    const good = await gauge(4);
    const next = ((await (await post(good.id)).json()) as { job: string }).job;
    await reaches(next, 'done');
  }, 90_000);
  it('a picture that was put off goes on from what is kept, also where the last of that is damaged, to the same bytes', async () => {
    const { folderOf } = await import('./checkpoint');
    const { resultNamed } = await import('../db/results');
    const turn = (job: string, what: string) => ask(`/api/jobs/${job}`, { method: 'PATCH', body: JSON.stringify({ turn: what }) });
    const lines = async (job: string) => (await readFile(join(folderOf(job), 'tiles'), 'utf8').catch(() => '')).split('\n').length;
    const keeps = async (job: string, n: number) => {
      for (const end = Date.now() + 60_000; (await lines(job)) < n && Date.now() < end; ) await new Promise((r) => setTimeout(r, 5));
    };
    const { id, document } = await gauge(400);
    const { job } = (await (await post(id)).json()) as { job: string };
    await keeps(job, 14);
    await turn(job, 'pause');
    await reaches(job, 'paused');
    const before = await lines(job);
    expect(before).toBeGreaterThan(10);
    // The power went while a line was written, and of the last tile on disk there is only half: the sums before it still are.
    const text = (await readFile(join(folderOf(job), 'tiles'), 'utf8')).trimEnd();
    const last = text.split('\n').findLast((l) => l.includes('"crc"')) as string;
    const { tile, slot } = JSON.parse(last) as { tile: number; slot: number };
    await writeFile(join(folderOf(job), 'tiles'), `${text}\n{"tile":1,"to":`);
    const sums = await open(join(folderOf(job), 'sums'), 'r+');
    await sums.write(new Uint8Array(64).fill(7), 0, 64, (2 * tile + slot) * 2 * 4 * CHANNELS * TILE * TILE);
    await sums.close();
    await turn(job, 'resume');
    await keeps(job, before + 3);
    await turn(job, 'pause');
    await reaches(job, 'paused');
    await turn(job, 'resume');
    await reaches(job, 'done');
    expect(existsSync(folderOf(job))).toBe(false);
    const { drawPicture } = await import('@wellmorph/core/pipeline/render');
    const none = () => {
      throw new Error('a recipe needs no stored mesh');
    };
    const whole = await drawPicture(document, formAsset(document, 'low', none).parts, {}, () => 0);
    const { readBlob } = await import('../blobs/store');
    const result = await resultNamed(nameOf(document, 'render'));
    expect(Buffer.from(whole.png).equals(await readBlob(result?.blobs.png as string))).toBe(true);
    expect(result?.figures).toMatchObject({ samples: 400, noise: whole.figures.noise });
  }, 120_000);
  it('what was running when the process ended waits again', async () => {
    const { id, document } = await gauge(4);
    await store.addJob({ assetId: id, kind: 'render', document, resultName: nameOf(document, 'render'), forecastSeconds: null });
    const taken = await store.takeJob();
    expect(taken?.assetId).toBe(id);
    expect(await store.takeJob()).toBeUndefined();
    await store.requeueRunning();
    expect((await store.takeJob())?.id).toBe(taken?.id);
    await store.endJob(taken?.id as string, 'stopped');
  });
});
