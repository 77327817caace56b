import { randomUUID } from 'node:crypto';
import { InputError } from '@wellmorph/core/errors';
import { and, desc, eq } from 'drizzle-orm';
import { database } from './client';
import { trials } from './schema';

export type Trial = Omit<typeof trials.$inferSelect, 'at'> & { at: string };
export type NewTrial = Pick<typeof trials.$inferInsert, 'stage' | 'title' | 'settings' | 'figures' | 'milliseconds' | 'thumbnail'>;

export async function addTrial(assetId: string, trial: NewTrial): Promise<Trial> {
  const db = await database();
  const [made] = await db
    .insert(trials)
    .values({ id: randomUUID(), assetId, ...trial })
    .returning();
  return { ...made, at: made.at.toISOString() };
}

export async function trialsOf(assetId: string): Promise<Trial[]> {
  const db = await database();
  const list = await db.select().from(trials).where(eq(trials.assetId, assetId)).orderBy(desc(trials.at));
  return list.map((t) => ({ ...t, at: t.at.toISOString() }));
}

export async function judgeTrial(assetId: string, id: string, change: { verdict?: string; note?: string }): Promise<Trial> {
  const db = await database();
  const [made] = await db
    .update(trials)
    .set(change)
    .where(and(eq(trials.id, id), eq(trials.assetId, assetId)))
    .returning();
  if (!made) throw new InputError('trial/missing', 'This trial is not there any more.');
  return { ...made, at: made.at.toISOString() };
}
