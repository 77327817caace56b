import { readdir } from 'node:fs/promises';
import { WellmorphError } from '@wellmorph/core/errors';
import { isOpen, QUEUE, type QueueChoices, untilTurn } from '@wellmorph/core/plan/queue-hours';
import { assetState } from '../db/assets';
import {
  endJob,
  holdRunning,
  type Job,
  type ListedJob,
  listJobs,
  openJobs,
  pauseRunning,
  requeueRunning,
  retryJob,
  stopWaiting,
  takeJob,
  turnJob,
} from '../db/jobs';
import { keepChoice, keptChoice } from '../db/kept';
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
  /** It is put off only until the queue may work again. */
  holding: boolean;
}
interface Queue {
  running: Running | null;
  turning: Promise<void> | null;
  started: boolean;
  /** Wakes the queue, or holds it, when its hours begin or end. */
  clock: NodeJS.Timeout | null;
}
const home = globalThis as { wellmorphQueue?: Queue };
const queue = (): NonNullable<typeof home.wellmorphQueue> => {
  home.wellmorphQueue ??= { running: null, turning: null, started: false, clock: null };
  return home.wellmorphQueue;
};

export type QueuedJob = ListedJob & {
  share: number;
  words: string;
  secondsLeft: number | null;
  /** Seconds until it has ended, with those before it; null where one of them doesn’t say, or the queue doesn’t work now. */
  endsIn: number | null;
};

const DO: Record<JobKind, (job: Job, working: Working) => Promise<Outcome>> = { render: renderJob, bake: bakeJob };

/** What is left of a job that has come so far, s; null while that can’t be told. */
function secondsLeft({ share, from, startedAt }: Running): number | null {
  const done = share - (from ?? 0);
  return done > 0.03 ? ((Date.now() - startedAt) / 1000 / done) * (1 - share) : null;
}

/** The queue as it stands, with how far the running one is. */
export async function queueNow(): Promise<QueuedJob[]> {
  const { running } = queue();
  const choices = await queueChoices();
  const list = (await listJobs(choices.order === 'due')).map((j) => {
    if (running?.id !== j.id)
      return { ...j, share: j.state === 'done' ? 1 : 0, words: '', secondsLeft: j.state === 'waiting' ? j.forecastSeconds : null };
    return { ...j, share: running.share, words: running.words, secondsLeft: secondsLeft(running) ?? j.forecastSeconds };
  });
  const ends = new Map<string, number>();
  let sum: number | null = mayWork(choices) ? 0 : null;
  for (const state of ['running', 'waiting'] as const)
    for (const j of list) {
      if (j.state !== state) continue;
      sum = sum === null || j.secondsLeft === null ? null : sum + j.secondsLeft;
      if (sum !== null) ends.set(j.id, sum);
    }
  return list.map((j) => ({ ...j, endsIn: ends.get(j.id) ?? null }));
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
  running.holding = false;
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
    for (let job = await next(); job; job = await next()) await work(job);
  })()
    .catch((error) => console.error(error))
    .finally(() => {
      q.turning = null;
    });
  return q.turning;
}

/** The next job, if the queue may work now. */
async function next(): Promise<Job | undefined> {
  const choices = await queueChoices();
  watchClock(choices);
  return mayWork(choices) ? takeJob(choices.order === 'due') : undefined;
}

const hourNow = (now = new Date()): number => now.getHours() + now.getMinutes() / 60 + now.getSeconds() / 3600;
const mayWork = ({ held, hours }: QueueChoices): boolean => !held && (hours === null || isOpen(hourNow(), hours));

/** Looks again when its hours begin or end: then it works, or what runs is put off until they begin again. */
function watchClock({ hours }: QueueChoices): void {
  const q = queue();
  if (q.clock) clearTimeout(q.clock);
  q.clock = null;
  if (!hours) return;
  // A little after the turn, so that it is the other side of it; and now and then besides, since the clock on the wall can be set.
  const wait = Math.min(untilTurn(hourNow(), hours) * 3600_000 + 500, 600_000);
  q.clock = setTimeout(() => void applyChoices(), wait);
  q.clock.unref();
}

/** What was chosen of the queue holds from now on: it works, or what runs is put off with all it has done. */
export async function applyChoices(): Promise<void> {
  const choices = await queueChoices();
  watchClock(choices);
  const { running } = queue();
  if (mayWork(choices)) void turnQueue();
  else if (running && !running.pausing) {
    running.pausing = true;
    running.holding = true;
    Atomics.store(running.cancel, 0, 1);
  }
}

/** How the queue is worked. */
export const queueChoices = async (): Promise<QueueChoices> => ({
  ...QUEUE,
  ...((await keptChoice('queue')) as Partial<QueueChoices> | null),
});
export async function setQueueChoices(change: Partial<QueueChoices>): Promise<QueueChoices> {
  const made = { ...(await queueChoices()), ...change };
  await keepChoice('queue', made);
  await applyChoices();
  publish({ kind: 'plan' });
  return made;
}

/** One that failed or was stopped is tried again. @returns false when it is in no such state */
export async function tryAgain(id: string): Promise<boolean> {
  if (!(await retryJob(id))) return false;
  tell(id, 'waiting');
  void turnQueue();
  return true;
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
    holding: false,
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
      settings: withSwept(trial.settings, job.place?.set ?? {}),
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
      await (running.holding ? holdRunning(job.id) : pauseRunning(job.id));
      tell(job.id, running.holding ? 'waiting' : 'paused', job.assetId);
    } else if (error instanceof Stopped) await end(job, 'stopped', 'Stopped, as asked. Nothing was changed.');
    else {
      if (!(error instanceof WellmorphError)) console.error(error);
      await end(job, 'failed', error instanceof Error ? error.message : 'It stopped unexpectedly.');
    }
  } finally {
    q.running = null;
  }
}

/** Settings with what was swept of materials, in place of the one name for the state of all of them. */
function withSwept(settings: Record<string, unknown>, set: Record<string, number>): Record<string, unknown> {
  if (Object.keys(set).length === 0) return settings;
  const { materials: _, ...rest } = settings;
  return { ...rest, ...set };
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
