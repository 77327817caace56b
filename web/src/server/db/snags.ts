import { randomUUID } from 'node:crypto';
import { InputError } from '@wellmorph/core/errors';
import { and, asc, eq, isNull } from 'drizzle-orm';
import { publish } from '../events';
import { mustExist } from './assets';
import { database } from './client';
import { assets, type SnagPlace, snags } from './schema';

export interface Snag {
  id: string;
  assetId: string;
  asset: string;
  words: string;
  minutes: number;
  place: SnagPlace | null;
  at: string;
  doneAt: string | null;
}

/** Snags of one asset, or of all that aren’t deleted; done ones too, oldest first. */
export async function listSnags(asset?: string): Promise<Snag[]> {
  const db = await database();
  const list = await db
    .select({ snag: snags, asset: assets.name })
    .from(snags)
    .innerJoin(assets, eq(assets.id, snags.assetId))
    .where(and(isNull(snags.removedAt), isNull(assets.deletedAt), asset ? eq(snags.assetId, asset) : undefined))
    .orderBy(asc(snags.at));
  return list.map(({ snag: { removedAt: _, at, doneAt, ...s }, asset: name }) => ({
    ...s,
    asset: name,
    at: at.toISOString(),
    doneAt: doneAt?.toISOString() ?? null,
  }));
}

export async function addSnag(
  assetId: string,
  snag: { words: string; minutes: number; place?: SnagPlace | null },
): Promise<{ id: string }> {
  await mustExist(assetId);
  const db = await database();
  const id = randomUUID();
  await db.insert(snags).values({ id, assetId, ...snag, place: snag.place ?? null });
  publish({ kind: 'snags', asset: assetId });
  return { id };
}

export interface SnagChange {
  words?: string;
  minutes?: number;
  done?: boolean;
  removed?: boolean;
}
/** @throws InputError when it is not there */
export async function setSnag(id: string, { done, removed, ...rest }: SnagChange): Promise<void> {
  const db = await database();
  const [changed] = await db
    .update(snags)
    .set({
      ...rest,
      ...(done !== undefined && { doneAt: done ? new Date() : null }),
      ...(removed !== undefined && { removedAt: removed ? new Date() : null }),
    })
    .where(eq(snags.id, id))
    .returning({ asset: snags.assetId });
  if (!changed) throw new InputError('snag/missing', 'This snag is not there any more.');
  publish({ kind: 'snags', asset: changed.asset });
}
