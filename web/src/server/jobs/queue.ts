import { Worker } from 'node:worker_threads';
import { InputError } from '@wellmorph/core/errors';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import type { RenderFigures, SetFiles } from '@wellmorph/core/pipeline/render';
import { drawnWithMaps, inputsOf, type Kept, nameOf, type StoredResult } from '@wellmorph/core/pipeline/results';
import { pictureTrial } from '@wellmorph/core/pipeline/trials';
import { keepBlob, readBlob } from '../blobs/store';
import { endJob, type Job, type ListedJob, listJobs, requeueRunning, stopWaiting, takeJob } from '../db/jobs';
import { keepResult, resultNamed } from '../db/results';
import { addTrial } from '../db/trials';
import { publish } from '../events';
import type { RenderAsk } from './render.worker';

/** The one that is being done now. Kept on globalThis, so that every route's copy of this module sees the same. */
interface Running {
  id: string;
  asset: string;
  toldAt: number;
  share: number;
  words: string;
  startedAt: number;
  cancel: Int32Array;
}
const home = globalThis as { wellmorphQueue?: { running: Running | null; turning: Promise<void> | null; started: boolean } };
const queue = (): NonNullable<typeof home.wellmorphQueue> => {
  home.wellmorphQueue ??= { running: null, turning: null, started: false };
  return home.wellmorphQueue;
};

export type QueuedJob = ListedJob & { share: number; words: string; secondsLeft: number | null };

/** The queue as it stands, with how far the running one is. */
export async function queueNow(): Promise<QueuedJob[]> {
  const { running } = queue();
  return (await listJobs()).map((j) => {
    if (running?.id !== j.id)
      return { ...j, share: j.state === 'done' ? 1 : 0, words: '', secondsLeft: j.state === 'waiting' ? j.forecastSeconds : null };
    const seconds = (Date.now() - running.startedAt) / 1000;
    return {
      ...j,
      share: running.share,
      words: running.words,
      secondsLeft: running.share > 0.03 ? (seconds / running.share) * (1 - running.share) : j.forecastSeconds,
    };
  });
}

/** Stops one that waits or runs. @returns false when it had ended already */
export async function stopJob(id: string): Promise<boolean> {
  if (await stopWaiting(id)) return true;
  const { running } = queue();
  if (running?.id !== id) return false;
  Atomics.store(running.cancel, 0, 1);
  return true;
}

/** Works the queue until it is empty; one picture at a time. Safe to call at any moment. */
export function turnQueue(): Promise<void> {
  const q = queue();
  q.turning ??= (async () => {
    if (!q.started) {
      q.started = true;
      await requeueRunning();
    }
    for (let job = await takeJob(); job; job = await takeJob()) await work(job);
  })()
    .catch((error) => console.error(error))
    .finally(() => {
      q.turning = null;
    });
  return q.turning;
}

async function work(job: Job): Promise<void> {
  const q = queue();
  q.running = {
    id: job.id,
    asset: job.assetId,
    toldAt: 0,
    share: 0,
    words: 'building the scene',
    startedAt: Date.now(),
    cancel: new Int32Array(new SharedArrayBuffer(4)),
  };
  try {
    const ask = await askFor(job.document, q.running.cancel);
    const made = await draw(ask, q.running);
    if ('failed' in made) return await end(job, made.stopped ? 'stopped' : 'failed', made.failed);
    const png = await keepBlob(made.png, 'png');
    await keepResult({
      name: job.resultName,
      stage: 'render',
      inputs: inputsOf(job.document, 'render').map((kind) => kind && nameOf(job.document, kind)),
      figures: made.figures,
      blobs: { png },
    });
    const trial = pictureTrial(job.document, made.figures);
    await addTrial(job.assetId, {
      stage: 'render',
      ...trial,
      title: `${trial.title}, queued`,
      milliseconds: Math.round(1000 * made.figures.seconds),
      thumbnail: png,
      resultName: job.resultName,
      snapshot: job.document,
      forecastSeconds: job.forecastSeconds,
    });
    await end(job, 'done');
  } catch (error) {
    console.error(error);
    await end(job, 'failed', error instanceof Error ? error.message : 'It stopped unexpectedly.');
  } finally {
    q.running = null;
  }
}

/** Ends a job and tells everybody. */
async function end(job: Job, state: 'done' | 'stopped' | 'failed', sentence: string | null = null): Promise<void> {
  await endJob(job.id, state, sentence);
  publish({ kind: 'job', job: job.id, asset: job.assetId, state, share: state === 'done' ? 1 : 0, words: '', secondsLeft: null });
}

/** What the picture is made of: the results that its document names, and nothing else. */
async function askFor(document: AssetDocument, cancel: Int32Array): Promise<RenderAsk> {
  const of = async (kind: Kept): Promise<StoredResult> => {
    const found = await resultNamed(nameOf(document, kind));
    if (!found)
      throw new InputError('job/inputs', 'What this picture is made of is no longer stored; make it again and queue the picture anew.');
    return found;
  };
  const inputs = inputsOf(document, 'render');
  const withMaps = drawnWithMaps(document);
  const { parts } = (await of(withMaps ? 'unwrap' : 'form')).blobs;
  const surface = inputs.includes('surface') ? await of('surface') : undefined;
  const bake = inputs.includes('bake') ? await of('bake') : undefined;
  const take = async (hash: string | undefined) => (hash ? await readBlob(hash) : undefined);
  const set: SetFiles = {
    baseColour: await take(surface?.blobs.baseColour),
    orm: await take(surface?.blobs.orm),
    normal: await take(bake?.blobs.glbNormal),
  };
  return { document, parts: await readBlob(parts), set, cancel };
}

/** What draws: a thread of its own. Replaceable, for where sources are not bundled. */
export const drawing = {
  thread: (ask: RenderAsk): Worker => new Worker(new URL('./render.worker.ts', import.meta.url), { workerData: ask }),
};

/** Says how far the running one is, not more than twice a second. */
function told(running: Running): void {
  if (Date.now() - running.toldAt < 500) return;
  running.toldAt = Date.now();
  const seconds = (Date.now() - running.startedAt) / 1000;
  const secondsLeft = running.share > 0.03 ? (seconds / running.share) * (1 - running.share) : null;
  publish({
    kind: 'job',
    job: running.id,
    asset: running.asset,
    state: 'running',
    share: running.share,
    words: running.words,
    secondsLeft,
  });
}

type Drawn = { png: Uint8Array; figures: RenderFigures } | { failed: string; stopped: boolean };

function draw(ask: RenderAsk, running: Running): Promise<Drawn> {
  return new Promise((resolve, reject) => {
    const worker = drawing.thread(ask);
    worker.on('message', (m: { share: number; words: string } | Drawn) => {
      if ('share' in m) {
        Object.assign(running, m);
        told(running);
      } else {
        resolve(m);
        void worker.terminate();
      }
    });
    worker.once('error', reject);
    worker.once('exit', () => resolve({ failed: 'The thread that drew it ended; put it in the queue again.', stopped: false }));
  });
}
