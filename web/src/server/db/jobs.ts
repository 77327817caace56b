import { randomUUID } from 'node:crypto';
import { InputError } from '@wellmorph/core/errors';
import { and, asc, desc, eq, inArray, sql } from 'drizzle-orm';
import { database } from './client';
import { assets, type JobState, jobs } from './schema';

export type Job = typeof jobs.$inferSelect;

/** The date its piece is due on, those without one last. */
const DUE = sql`${assets.document}->'brief'->>'deadline' asc nulls last`;
/** States of what has not ended. */
const OPEN: JobState[] = ['running', 'waiting', 'paused'];
/** A job as the workshop lists it. */
export interface ListedJob {
  id: string;
  assetId: string;
  asset: string;
  kind: Job['kind'];
  /** The sweep it is one of, and its label there. */
  sweep: string | null;
  place: Job['place'];
  state: JobState;
  sentence: string | null;
  forecastSeconds: number | null;
  at: string;
}

export async function addJob(
  job: Pick<Job, 'assetId' | 'kind' | 'document' | 'resultName' | 'forecastSeconds'> & Partial<Pick<Job, 'sweep' | 'place'>>,
): Promise<string> {
  const db = await database();
  // Two sweeps may share a run: each has its own place for it.
  const [twice] = job.sweep
    ? []
    : await db
        .select({ id: jobs.id })
        .from(jobs)
        .where(and(eq(jobs.assetId, job.assetId), eq(jobs.resultName, job.resultName), inArray(jobs.state, OPEN)));
  if (twice) throw new InputError('job/twice', `This very ${job.kind === 'bake' ? 'bake' : 'picture'} is in the queue already.`);
  const id = randomUUID();
  await db.insert(jobs).values({ id, ...job });
  return id;
}

/** The next one to be done, marked as running; undefined when none waits. @param byDue what is due first comes first */
export async function takeJob(byDue = false): Promise<Job | undefined> {
  const db = await database();
  return db.transaction(async (tx) => {
    const [found] = await tx
      .select({ next: jobs })
      .from(jobs)
      .innerJoin(assets, eq(assets.id, jobs.assetId))
      .where(eq(jobs.state, 'waiting'))
      .orderBy(...(byDue ? [DUE] : []), asc(jobs.at))
      .limit(1);
    if (!found) return undefined;
    const { next } = found;
    await tx.update(jobs).set({ state: 'running' }).where(eq(jobs.id, next.id));
    return { ...next, state: 'running' as const };
  });
}

/** What was running when the process ended waits again: a picture is begun anew, a bake goes on from what it had done. */
export async function requeueRunning(): Promise<void> {
  const db = await database();
  await db.update(jobs).set({ state: 'waiting' }).where(eq(jobs.state, 'running'));
}

/** The one that was running waits again: it goes on from what it has done. */
export async function holdRunning(id: string): Promise<void> {
  const db = await database();
  await db
    .update(jobs)
    .set({ state: 'waiting' })
    .where(and(eq(jobs.id, id), eq(jobs.state, 'running')));
}

/** One that failed waits again, behind the others. @returns false when it is in no such state */
export async function retryJob(id: string): Promise<boolean> {
  const db = await database();
  const done = await db
    .update(jobs)
    .set({ state: 'waiting', sentence: null, endedAt: null, at: new Date() })
    .where(and(eq(jobs.id, id), inArray(jobs.state, ['failed', 'stopped'])))
    .returning({ id: jobs.id });
  return done.length > 0;
}

/** Ids of all that have not ended. */
export async function openJobs(): Promise<string[]> {
  const db = await database();
  return (await db.select({ id: jobs.id }).from(jobs).where(inArray(jobs.state, OPEN))).map((j) => j.id);
}

/** One that waits is put off, or one that was put off waits again. @returns false when it is in no such state */
export async function turnJob(id: string, from: 'waiting' | 'paused', to: 'waiting' | 'paused'): Promise<boolean> {
  const db = await database();
  const done = await db
    .update(jobs)
    .set({ state: to })
    .where(and(eq(jobs.id, id), eq(jobs.state, from)))
    .returning({ id: jobs.id });
  return done.length > 0;
}

/** The one that was running is put off. */
export async function pauseRunning(id: string): Promise<void> {
  const db = await database();
  await db
    .update(jobs)
    .set({ state: 'paused' })
    .where(and(eq(jobs.id, id), eq(jobs.state, 'running')));
}

export async function endJob(
  id: string,
  state: Exclude<JobState, 'waiting' | 'running' | 'paused'>,
  sentence: string | null = null,
): Promise<void> {
  const db = await database();
  await db.update(jobs).set({ state, sentence, endedAt: new Date() }).where(eq(jobs.id, id));
}

/** Stops one that waits or was put off. @returns false when it doesn't wait any more */
export async function stopWaiting(id: string): Promise<boolean> {
  const db = await database();
  const done = await db
    .update(jobs)
    .set({ state: 'stopped', endedAt: new Date() })
    .where(and(eq(jobs.id, id), inArray(jobs.state, ['waiting', 'paused'])))
    .returning({ id: jobs.id });
  return done.length > 0;
}

/** What waits and runs, in order, and the last few that ended. */
export async function listJobs(byDue = false): Promise<ListedJob[]> {
  const db = await database();
  const fields = {
    id: jobs.id,
    assetId: jobs.assetId,
    asset: assets.name,
    kind: jobs.kind,
    sweep: jobs.sweep,
    place: jobs.place,
    state: jobs.state,
    sentence: jobs.sentence,
    forecastSeconds: jobs.forecastSeconds,
    at: jobs.at,
  };
  const open = await db
    .select(fields)
    .from(jobs)
    .innerJoin(assets, eq(assets.id, jobs.assetId))
    .where(inArray(jobs.state, OPEN))
    .orderBy(...(byDue ? [DUE] : []), asc(jobs.at));
  const ended = await db
    .select(fields)
    .from(jobs)
    .innerJoin(assets, eq(assets.id, jobs.assetId))
    .where(inArray(jobs.state, ['done', 'stopped', 'failed']))
    .orderBy(desc(jobs.endedAt))
    .limit(4);
  return [...open, ...ended].map((j) => ({ ...j, at: j.at.toISOString() }));
}
