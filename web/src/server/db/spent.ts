import type { PlannedStage } from '@wellmorph/core/plan/forecast';
import { and, eq, isNull, sql } from 'drizzle-orm';
import { publish } from '../events';
import { mustExist } from './assets';
import { database } from './client';
import { assets, spent } from './schema';

/** Time spent on a stage of a piece on a day. */
export interface Spent {
  assetId: string;
  stage: PlannedStage;
  day: string;
  minutes: number;
}

/** No day of one stage of one piece is longer than this, s. */
const DAY_SECONDS = 86_400;

/** Adds seconds that were counted by themselves. Several pages may count at once: they add up in the database. */
export async function addSpent(assetId: string, stage: PlannedStage, day: string, seconds: number): Promise<void> {
  await mustExist(assetId);
  const db = await database();
  await db
    .insert(spent)
    .values({ assetId, stage, day, seconds })
    .onConflictDoUpdate({
      target: [spent.assetId, spent.stage, spent.day],
      set: { seconds: sql`least(${DAY_SECONDS}, ${spent.seconds} + ${seconds})` },
    });
}

/** What a stage came to on a day, put right by hand: what was counted stays known, the difference is kept beside it. */
export async function setSpent(assetId: string, stage: PlannedStage, day: string, minutes: number): Promise<void> {
  await mustExist(assetId);
  const db = await database();
  const seconds = 60 * minutes;
  await db
    .insert(spent)
    .values({ assetId, stage, day, byHand: seconds })
    .onConflictDoUpdate({ target: [spent.assetId, spent.stage, spent.day], set: { byHand: sql`${seconds}::real - ${spent.seconds}` } });
  publish({ kind: 'plan' });
}

/** All of it, of assets that aren’t deleted. */
export async function allSpent(): Promise<Spent[]> {
  const db = await database();
  const list = await db
    .select({ assetId: spent.assetId, stage: spent.stage, day: spent.day, seconds: sql<number>`${spent.seconds} + ${spent.byHand}` })
    .from(spent)
    .innerJoin(assets, eq(assets.id, spent.assetId))
    .where(isNull(assets.deletedAt));
  return list.map(({ seconds, ...s }) => ({ ...s, minutes: Math.max(0, seconds / 60) }));
}

/** Of one piece. */
export async function spentOn(assetId: string): Promise<Spent[]> {
  await mustExist(assetId);
  const db = await database();
  const list = await db
    .select()
    .from(spent)
    .where(and(eq(spent.assetId, assetId)));
  return list.map(({ seconds, byHand, ...s }) => ({ ...s, minutes: Math.max(0, (seconds + byHand) / 60) }));
}
