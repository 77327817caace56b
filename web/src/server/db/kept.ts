import { eq } from 'drizzle-orm';
import { database } from './client';
import { kept } from './schema';

/** A choice of the whole workshop; null where none was made. */
export async function keptChoice(key: string): Promise<unknown> {
  const db = await database();
  const [found] = await db.select({ value: kept.value }).from(kept).where(eq(kept.key, key));
  return found?.value ?? null;
}

export async function keepChoice(key: string, value: unknown): Promise<void> {
  const db = await database();
  await db
    .insert(kept)
    .values({ key, value })
    .onConflictDoUpdate({ target: kept.key, set: { value, at: new Date() } });
}
