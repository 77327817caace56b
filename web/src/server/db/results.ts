import { desc, eq } from 'drizzle-orm';
import { database } from './client';
import { results } from './schema';

export interface StoredResult {
  stage: string;
  hash: string;
  figures: unknown;
  blobs: Record<string, string>;
}

/** Keeps what a stage came to. Findings under one hash can change with waivers and limits, so the newest copy stands. */
export async function keepResult(assetId: string, result: StoredResult): Promise<void> {
  const db = await database();
  await db
    .insert(results)
    .values({ assetId, ...result })
    .onConflictDoUpdate({
      target: [results.assetId, results.stage, results.hash],
      set: { at: new Date(), figures: result.figures, blobs: result.blobs },
    });
}

/** The newest result of each stage of one asset. */
export async function latestResults(assetId: string): Promise<StoredResult[]> {
  const db = await database();
  return db
    .selectDistinctOn([results.stage], { stage: results.stage, hash: results.hash, figures: results.figures, blobs: results.blobs })
    .from(results)
    .where(eq(results.assetId, assetId))
    .orderBy(results.stage, desc(results.at));
}

/** The newest result of each stage of every asset, for the workshop's cards. */
export async function latestOfAll(): Promise<(StoredResult & { assetId: string })[]> {
  const db = await database();
  return db
    .selectDistinctOn([results.assetId, results.stage], {
      assetId: results.assetId,
      stage: results.stage,
      hash: results.hash,
      figures: results.figures,
      blobs: results.blobs,
    })
    .from(results)
    .orderBy(results.assetId, results.stage, desc(results.at));
}

export async function resultUnder(assetId: string, hash: string): Promise<StoredResult | undefined> {
  const db = await database();
  const found = await db.select().from(results).where(eq(results.assetId, assetId));
  return found.find((r) => r.hash === hash);
}
