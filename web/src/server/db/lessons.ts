import { randomUUID } from 'node:crypto';
import { InputError } from '@wellmorph/core/errors';
import { desc, eq, isNull } from 'drizzle-orm';
import { publish } from '../events';
import { database } from './client';
import { assets, type LessonKind, lessons, trials } from './schema';

/** A lesson with the run it was learned from. */
export interface Lesson {
  id: string;
  sentence: string;
  kind: LessonKind;
  subject: string;
  at: string;
  run: { id: string; number: number; title: string; asset: string } | null;
}

export async function listLessons(): Promise<Lesson[]> {
  const db = await database();
  const list = await db
    .select({ lesson: lessons, id: trials.id, number: trials.number, title: trials.title, asset: assets.name })
    .from(lessons)
    .leftJoin(trials, eq(trials.id, lessons.trialId))
    .leftJoin(assets, eq(assets.id, trials.assetId))
    .where(isNull(lessons.removedAt))
    .orderBy(desc(lessons.at));
  return list.map(({ lesson: { id, sentence, kind, subject, at }, ...run }) => ({
    id,
    sentence,
    kind,
    subject,
    at: at.toISOString(),
    run: run.id === null ? null : { id: run.id, number: run.number ?? 0, title: run.title ?? '', asset: run.asset ?? '' },
  }));
}

/** @throws InputError when the run it is learned from isn’t there */
export async function addLesson(lesson: { sentence: string; kind: LessonKind; subject: string; trial?: string }): Promise<{ id: string }> {
  const db = await database();
  const { trial = null, ...rest } = lesson;
  if (trial && (await db.select({ id: trials.id }).from(trials).where(eq(trials.id, trial))).length === 0)
    throw new InputError('trial/missing', 'The run this lesson is from is not there any more.');
  const id = randomUUID();
  await db.insert(lessons).values({ id, ...rest, trialId: trial });
  publish({ kind: 'logbook' });
  return { id };
}

/** Changes its sentence, takes it away or brings it back. */
export async function setLesson(id: string, change: { sentence?: string; removed?: boolean }): Promise<void> {
  const db = await database();
  const done = await db
    .update(lessons)
    .set({
      ...(change.sentence !== undefined && { sentence: change.sentence }),
      ...(change.removed !== undefined && { removedAt: change.removed ? new Date() : null }),
    })
    .where(eq(lessons.id, id))
    .returning({ id: lessons.id });
  if (done.length === 0) throw new InputError('lesson/missing', 'This lesson is not there any more.');
  publish({ kind: 'logbook' });
}
