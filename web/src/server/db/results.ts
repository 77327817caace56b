import { InputError } from '@wellmorph/core/errors';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { KEPT, namesOf, type StoredResult } from '@wellmorph/core/pipeline/results';
import { and, desc, eq, inArray, sql } from 'drizzle-orm';
import { publish } from '../events';
import { type Database, database } from './client';
import { assets, blobs, edits, results } from './schema';

const FIELDS = { name: results.name, stage: results.stage, inputs: results.inputs, figures: results.figures, blobs: results.blobs };

/**
 * Keeps a result under its name; the first one that was kept stands. Its files must be stored: they are looked for in the same
 * transaction, so that none is collected in between.
 *
 * @returns what stands under the name
 * @throws InputError `result/blob` when a file it refers to isn't stored
 */
export async function keepResult(result: StoredResult): Promise<StoredResult> {
  const db = await database();
  const kept = await db.transaction(async (tx) => {
    const wanted = [...new Set(Object.values(result.blobs))];
    if (!(await touch(tx, wanted))) throw new InputError('result/blob', 'A file this result refers to is not stored here.');
    await tx.insert(results).values(result).onConflictDoNothing();
    const [stands] = await tx.select(FIELDS).from(results).where(eq(results.name, result.name));
    return stands;
  });
  publish({ kind: 'result', name: kept.name, stage: kept.stage });
  return kept;
}

/** Marks files as handed in just now, so that none of them is collected before what refers to it is there. @returns whether all are stored */
export async function touch(db: Pick<Database, 'update'>, files: readonly string[]): Promise<boolean> {
  if (files.length === 0) return true;
  const wanted = [...new Set(files)];
  const found = await db.update(blobs).set({ touchedAt: new Date() }).where(inArray(blobs.hash, wanted)).returning({ hash: blobs.hash });
  return found.length === wanted.length;
}

/** Names asked for at once: a question to the database has 65 535 places at most. */
const AT_ONCE = 5000;

/** Those of some names that are kept, however many are asked for. */
export async function resultsNamed(names: readonly string[]): Promise<StoredResult[]> {
  const db = await database();
  const found: StoredResult[] = [];
  for (let from = 0; from < names.length; from += AT_ONCE)
    found.push(
      ...(await db
        .select(FIELDS)
        .from(results)
        .where(inArray(results.name, names.slice(from, from + AT_ONCE)))),
    );
  return found;
}

export const resultNamed = async (name: string): Promise<StoredResult | undefined> => (await resultsNamed([name]))[0];

/** Changes whose results are looked through for the newest that is stored, latest first. */
const LOOKED_THROUGH = 60;

/**
 * What is known of each kind of result of some assets, by asset: that of the document as it is; where there is none, that of the latest
 * state of the document that has one. Which state is the latest follows from the order of changes, not from when something was stored.
 */
export async function resultsOfAll(list: readonly { id: string; document: AssetDocument }[]): Promise<Map<string, StoredResult[]>> {
  const db = await database();
  if (list.length === 0) return new Map();
  const ids = list.map((a) => a.id);
  // The latest of each by its index: a long history is not read whole for a card.
  const latest = db
    .select({ id: edits.id, names: edits.names, undone: edits.undone })
    .from(edits)
    .where(and(eq(edits.assetId, assets.id), eq(edits.dropped, false)))
    .orderBy(desc(edits.id))
    .limit(LOOKED_THROUGH)
    .as('latest');
  const states = await db
    .select({ assetId: assets.id, names: latest.names, undone: latest.undone })
    .from(assets)
    .innerJoinLateral(latest, sql`true`)
    .where(inArray(assets.id, ids))
    .orderBy(desc(latest.id));
  const statesOf = new Map<string, typeof states>();
  for (const s of states) statesOf.set(s.assetId, [...(statesOf.get(s.assetId) ?? []), s]);
  const ordered = list.map(({ id, document }) => {
    const names = [namesOf(document)];
    const mine = statesOf.get(id) ?? [];
    for (const { names: n, undone } of mine) if (n && !undone) names.push(n.after, n.before);
    for (const { names: n, undone } of mine) if (n && undone) names.push(n.after);
    return names;
  });
  const found = new Map((await resultsNamed([...new Set(ordered.flat().flatMap((n) => Object.values(n)))])).map((r) => [r.name, r]));
  return new Map(
    list.map(({ id }, i) => [
      id,
      KEPT.flatMap((kind) => {
        const names = ordered[i].find((n) => found.has(n[kind]));
        const result = names && found.get(names[kind]);
        return result ? [result] : [];
      }),
    ]),
  );
}

/** What is known of each kind of result of one asset. */
export const resultsOf = async (id: string, document: AssetDocument): Promise<StoredResult[]> =>
  (await resultsOfAll([{ id, document }])).get(id) ?? [];
