import { Worker } from 'node:worker_threads';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import type { RenderFigures, SetFiles } from '@wellmorph/core/pipeline/render';
import { resultHash, type Stage } from '@wellmorph/core/pipeline/results';
import { keepBlob, readBlob } from '../blobs/store';
import { endJob, type Job, type ListedJob, listJobs, requeueRunning, stopWaiting, takeJob } from '../db/jobs';
import { keepResult, resultUnder } from '../db/results';
import { addTrial } from '../db/trials';
import type { RenderAsk } from './render.worker';

/** The one that is being done now. Kept on globalThis, so that every route's copy of this module sees the same. */
interface Running {
  id: string;
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
    share: 0,
    words: 'building the scene',
    startedAt: Date.now(),
    cancel: new Int32Array(new SharedArrayBuffer(4)),
  };
  try {
    const ask = await askFor(job.assetId, job.document, q.running.cancel);
    const made = await draw(ask, q.running);
    if ('failed' in made) return await endJob(job.id, made.stopped ? 'stopped' : 'failed', made.failed);
    const png = await keepBlob(made.png, 'png');
    await keepResult(job.assetId, { stage: 'render', hash: job.hash, figures: made.figures, blobs: { png } });
    await addTrial(job.assetId, {
      stage: 'render',
      title: `${made.figures.width} × ${made.figures.height}, ${made.figures.samples} samples, queued`,
      settings: {
        samples: made.figures.samples,
        seed: job.document.render.seed,
        width: made.figures.width,
        height: made.figures.height,
        tone: job.document.shot.tone,
      },
      figures: { noisePercent: 100 * made.figures.noise, samples: made.figures.samples, clippedPercent: 100 * made.figures.clippedShare },
      milliseconds: Math.round(1000 * made.figures.seconds),
      thumbnail: png,
    });
    await endJob(job.id, 'done');
  } catch (error) {
    console.error(error);
    await endJob(job.id, 'failed', error instanceof Error ? error.message : 'It stopped unexpectedly.');
  } finally {
    q.running = null;
  }
}

/** What the picture is made of: stored results of exactly that document, nothing older. */
async function askFor(assetId: string, document: AssetDocument, cancel: Int32Array): Promise<RenderAsk> {
  const of = (stage: Stage) => resultUnder(assetId, resultHash(document, stage));
  const parts = (await of('unwrap'))?.blobs.parts ?? (await of('form'))?.blobs.parts;
  if (!parts) throw new Error('The piece is not stored in the state this picture was asked for.');
  const [surface, bake] = [await of('surface'), await of('bake')];
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

type Drawn = { png: Uint8Array; figures: RenderFigures } | { failed: string; stopped: boolean };

function draw(ask: RenderAsk, running: Running): Promise<Drawn> {
  return new Promise((resolve, reject) => {
    const worker = drawing.thread(ask);
    worker.on('message', (m: { share: number; words: string } | Drawn) => {
      if ('share' in m) Object.assign(running, m);
      else {
        resolve(m);
        void worker.terminate();
      }
    });
    worker.once('error', reject);
    worker.once('exit', () => resolve({ failed: 'The thread that drew it ended; put it in the queue again.', stopped: false }));
  });
}
