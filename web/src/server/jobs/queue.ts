import { readdir } from 'node:fs/promises';
import { WellmorphError } from '@wellmorph/core/errors';
import { assetState } from '../db/assets';
import {
  endJob,
  type Job,
  type ListedJob,
  listJobs,
  openJobs,
  pauseRunning,
  requeueRunning,
  stopWaiting,
  takeJob,
  turnJob,
} from '../db/jobs';
import type { JobKind, JobState } from '../db/schema';
import { addTrial } from '../db/trials';
import { publish } from '../events';
import { bakeJob } from './bake-job';
import { forget, workDir } from './checkpoint';
import { renderJob } from './render-job';
import { type Outcome, Stopped, type Working } from './working';

/** The one that is being done now. Kept on globalThis, so that every route's copy of this module sees the same. */
interface Running {
  id: string;
  asset: string;
  toldAt: number;
  share: number;
  /** How far it was when it was begun: it may have been going on before. */
  from: number | null;
  words: string;
  startedAt: number;
  cancel: Int32Array;
  pausing: boolean;
}
const home = globalThis as { wellmorphQueue?: { running: Running | null; turning: Promise<void> | null; started: boolean } };
const queue = (): NonNullable<typeof home.wellmorphQueue> => {
  home.wellmorphQueue ??= { running: null, turning: null, started: false };
  return home.wellmorphQueue;
};

export type QueuedJob = ListedJob & { share: number; words: string; secondsLeft: number | null };

const DO: Record<JobKind, (job: Job, working: Working) => Promise<Outcome>> = { render: renderJob, bake: bakeJob };

/** What is left of a job that has come so far, s; null while that can’t be told. */
function secondsLeft({ share, from, startedAt }: Running): number | null {
  const done = share - (from ?? 0);
  return done > 0.03 ? ((Date.now() - startedAt) / 1000 / done) * (1 - share) : null;
}

/** The queue as it stands, with how far the running one is. */
export async function queueNow(): Promise<QueuedJob[]> {
  const { running } = queue();
  return (await listJobs()).map((j) => {
    if (running?.id !== j.id)
      return { ...j, share: j.state === 'done' ? 1 : 0, words: '', secondsLeft: j.state === 'waiting' ? j.forecastSeconds : null };
    return { ...j, share: running.share, words: running.words, secondsLeft: secondsLeft(running) ?? j.forecastSeconds };
  });
}

/** Stops one that waits, runs or was put off. @returns false when it had ended already */
export async function stopJob(id: string): Promise<boolean> {
  if (await stopWaiting(id)) {
    await forget(id);
    tell(id, 'stopped');
    return true;
  }
  const { running } = queue();
  if (running?.id !== id) return false;
  running.pausing = false;
  Atomics.store(running.cancel, 0, 1);
  return true;
}

/** Puts off one that waits or runs: what it has done is kept, and the next one begins. @returns false when it had ended already */
export async function pauseJob(id: string): Promise<boolean> {
  if (await turnJob(id, 'waiting', 'paused')) {
    tell(id, 'paused');
    return true;
  }
  const { running } = queue();
  if (running?.id !== id) return false;
  running.pausing = true;
  Atomics.store(running.cancel, 0, 1);
  return true;
}

/** One that was put off waits again. @returns false when it wasn’t put off */
export async function resumeJob(id: string): Promise<boolean> {
  if (!(await turnJob(id, 'paused', 'waiting'))) return false;
  tell(id, 'waiting');
  void turnQueue();
  return true;
}

/** Works the queue until it is empty; one job at a time. Safe to call at any moment. */
export function turnQueue(): Promise<void> {
  const q = queue();
  q.turning ??= (async () => {
    if (!q.started) {
      q.started = true;
      await requeueRunning();
      await forgetTheRest();
    }
    for (let job = await takeJob(); job; job = await takeJob()) await work(job);
  })()
    .catch((error) => console.error(error))
    .finally(() => {
      q.turning = null;
    });
  return q.turning;
}

/** Takes away what jobs kept that have ended without doing so themselves. */
async function forgetTheRest(): Promise<void> {
  const open = new Set(await openJobs());
  for (const id of await readdir(workDir()).catch(() => [] as string[])) if (!open.has(id)) await forget(id);
}

async function work(job: Job): Promise<void> {
  const q = queue();
  const running: Running = {
    id: job.id,
    asset: job.assetId,
    toldAt: 0,
    share: 0,
    from: null,
    words: '',
    startedAt: Date.now(),
    cancel: new Int32Array(new SharedArrayBuffer(4)),
    pausing: false,
  };
  q.running = running;
  const working: Working = {
    cancel: running.cancel,
    stopped: () => Atomics.load(running.cancel, 0) === 1,
    paused: () => running.pausing,
    seconds: () => (Date.now() - running.startedAt) / 1000,
    told(share, words) {
      // What was done before it was interrupted says nothing of how fast it is.
      if (share > 0 && (job.kind !== 'bake' || words === 'casting rays')) running.from ??= share;
      Object.assign(running, { share, words });
      told(running);
    },
  };
  try {
    const { trial, seconds, thumbnail } = await DO[job.kind](job, working);
    await addTrial(job.assetId, {
      stage: job.kind,
      ...trial,
      // What was swept is a setting of the run, whether the stage tells of it or not.
      settings: { ...trial.settings, ...job.place?.set },
      title: job.place ? job.place.label : `${trial.title}, queued`,
      milliseconds: Math.round(1000 * seconds),
      thumbnail: thumbnail ?? (await assetState(job.assetId)).thumbnail,
      resultName: job.resultName,
      snapshot: job.document,
      forecastSeconds: job.forecastSeconds,
      sweep: job.sweep,
      place: job.place,
    });
    await end(job, 'done');
  } catch (error) {
    if (error instanceof Stopped && running.pausing) {
      await pauseRunning(job.id);
      tell(job.id, 'paused', job.assetId);
    } else if (error instanceof Stopped) await end(job, 'stopped', 'Stopped, as asked. Nothing was changed.');
    else {
      if (!(error instanceof WellmorphError)) console.error(error);
      await end(job, 'failed', error instanceof Error ? error.message : 'It stopped unexpectedly.');
    }
  } finally {
    q.running = null;
  }
}

/** Ends a job and tells everybody. */
async function end(job: Job, state: 'done' | 'stopped' | 'failed', sentence: string | null = null): Promise<void> {
  await endJob(job.id, state, sentence);
  tell(job.id, state, job.assetId);
}

const tell = (job: string, state: JobState, asset = ''): void =>
  publish({ kind: 'job', job, asset, state, share: state === 'done' ? 1 : 0, words: '', secondsLeft: null });

/** Says how far the running one is, not more than twice a second. */
function told(running: Running): void {
  if (Date.now() - running.toldAt < 500) return;
  running.toldAt = Date.now();
  publish({
    kind: 'job',
    job: running.id,
    asset: running.asset,
    state: 'running',
    share: running.share,
    words: running.words,
    secondsLeft: secondsLeft(running),
  });
}
