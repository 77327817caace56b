import { upgradeDocument } from '@wellmorph/core/pipeline/document';
import { everyBlob } from '@wellmorph/core/pipeline/stored';
import { gt, inArray, isNull, lt, or } from 'drizzle-orm';
import { type Database, database } from '../db/client';
import { assets, blobs, edits, jobs, leases, results, states, trials } from '../db/schema';
import { alone, removeFile } from './store';

/** What nothing refers to is kept this long all the same: somebody may be about to, ms. */
const GRACE = 24 * 3600 * 1000;
/** States of an asset whose results are kept, counted back and forward from the one it is in. Farther ones are made anew when wanted. */
export const STATES_KEPT = 100;

const RUNS_A_PAGE = 500;

type Reader = Pick<Database, 'select'>;

/** Every file a document refers to: its meshes and the pictures behind it. */

/** Files that a stored change brings or takes back: undo has to find them again. */
function filesIn(value: unknown, into: Set<string>): void {
  if (typeof value === 'string') {
    if (/^[0-9a-f]{64}$/.test(value)) into.add(value);
  } else if (value && typeof value === 'object') for (const x of Object.values(value)) filesIn(x, into);
}

export interface Reachable {
  results: Set<string>;
  files: Set<string>;
}

/**
 * What is still referred to: by the present, undoable and redoable states of assets (deleted ones too: deleting can be undone), by
 * trials, named states (a day longer than they are wanted), jobs and leases; results with all they stand on.
 */
export async function reachable(db: Reader): Promise<Reachable> {
  const names = new Set<string>();
  const files = new Set<string>();
  const addNames = (list: Record<string, string> | null | undefined) => {
    for (const name of Object.values(list ?? {})) names.add(name);
  };
  for (const a of await db.select({ document: assets.document, names: assets.names, thumbnail: assets.thumbnail }).from(assets)) {
    addNames(a.names);
    if (a.thumbnail) files.add(a.thumbnail);
    for (const f of everyBlob(upgradeDocument(a.document))) files.add(f);
  }
  const byAsset = new Map<string, { names: (typeof edits.$inferSelect)['names']; undone: boolean }[]>();
  const history = await db
    .select({
      asset: edits.assetId,
      id: edits.id,
      names: edits.names,
      undone: edits.undone,
      dropped: edits.dropped,
      patches: edits.patches,
      inverse: edits.inverse,
    })
    .from(edits)
    .orderBy(edits.id);
  for (const e of history) {
    if (e.dropped) continue;
    filesIn(e.patches, files);
    filesIn(e.inverse, files);
    const list = byAsset.get(e.asset) ?? [];
    list.push(e);
    byAsset.set(e.asset, list);
  }
  for (const list of byAsset.values()) {
    const here = list.filter((e) => !e.undone).length;
    for (const e of list.slice(Math.max(0, here - STATES_KEPT), here + STATES_KEPT)) {
      addNames(e.names?.before);
      addNames(e.names?.after);
    }
  }
  // A long logbook is read a page at a time: each run holds the whole document it was made from.
  for (let after = 0; ; ) {
    const page = await db
      .select({ number: trials.number, name: trials.resultName, snapshot: trials.snapshot, thumbnail: trials.thumbnail })
      .from(trials)
      .where(gt(trials.number, after))
      .orderBy(trials.number)
      .limit(RUNS_A_PAGE);
    for (const t of page) {
      if (t.name) names.add(t.name);
      if (t.thumbnail) files.add(t.thumbnail);
      if (t.snapshot) for (const f of everyBlob(upgradeDocument(t.snapshot))) files.add(f);
    }
    if (page.length < RUNS_A_PAGE) break;
    after = page[page.length - 1].number;
  }
  for (const s of await db
    .select({ names: states.names, snapshot: states.snapshot, thumbnail: states.thumbnail })
    .from(states)
    .where(or(isNull(states.removedAt), gt(states.removedAt, new Date(Date.now() - GRACE))))) {
    addNames(s.names);
    if (s.thumbnail) files.add(s.thumbnail);
    for (const f of everyBlob(upgradeDocument(s.snapshot))) files.add(f);
  }
  for (const j of await db.select({ name: jobs.resultName, document: jobs.document }).from(jobs)) {
    names.add(j.name);
    for (const f of everyBlob(upgradeDocument(j.document))) files.add(f);
  }
  const now = Date.now();
  for (const l of await db.select().from(leases)) if (l.until.getTime() > now) files.add(l.blob);
  // Closed over inputs: what a kept result stands on stays with it.
  const stored = new Map(
    (await db.select({ name: results.name, inputs: results.inputs, blobs: results.blobs }).from(results)).map((r) => [r.name, r]),
  );
  const waiting = [...names];
  const kept = new Set<string>();
  for (let name = waiting.pop(); name !== undefined; name = waiting.pop()) {
    const r = stored.get(name);
    if (!r || kept.has(name)) continue;
    kept.add(name);
    for (const input of r.inputs) if (input) waiting.push(input);
    for (const f of Object.values(r.blobs)) files.add(f);
  }
  return { results: kept, files };
}

/**
 * Removes results and files that nothing has referred to for a day. What is reachable is worked out in the transaction that removes,
 * and each file goes only while nobody is handing it in.
 *
 * @param now for tests: the moment it is
 */
export async function collect(now = Date.now()): Promise<{ results: number; files: number; bytes: number }> {
  const db = await database();
  const before = new Date(now - GRACE);
  const gone = await db.transaction(async (tx) => {
    await tx.delete(leases).where(lt(leases.until, new Date(now)));
    const roots = await reachable(tx);
    const old = await tx.select({ name: results.name, blobs: results.blobs }).from(results).where(lt(results.at, before));
    const idle = old.filter((r) => !roots.results.has(r.name)).map((r) => r.name);
    if (idle.length > 0) await tx.delete(results).where(inArray(results.name, idle));
    // A younger result that nothing refers to yet keeps its files.
    const files = new Set(roots.files);
    for (const r of await tx.select({ blobs: results.blobs }).from(results)) for (const f of Object.values(r.blobs)) files.add(f);
    const candidates = await tx.select({ hash: blobs.hash, bytes: blobs.bytes }).from(blobs).where(lt(blobs.touchedAt, before));
    return { results: idle.length, files: candidates.filter((b) => !files.has(b.hash)) };
  });
  let [count, bytes] = [0, 0];
  for (const { hash, bytes: size } of gone.files) {
    await alone(hash, async () => {
      // Handed in again, or taken into a result, since it was looked for: it stays.
      const removed = await db.transaction(async (tx) => {
        const [row] = await tx
          .select({ touchedAt: blobs.touchedAt })
          .from(blobs)
          .where(inArray(blobs.hash, [hash]))
          .for('update');
        if (!row || row.touchedAt >= before) return false;
        await tx.delete(blobs).where(inArray(blobs.hash, [hash]));
        return true;
      });
      if (!removed) return;
      await removeFile(hash);
      count++;
      bytes += size;
    });
  }
  return { results: gone.results, files: count, bytes };
}

/** How much is stored, and how much of it nothing refers to any more, bytes. */
export interface StoredSizes {
  bytes: number;
  files: number;
  idleBytes: number;
  results: number;
}

export async function storedSizes(): Promise<StoredSizes> {
  const db = await database();
  const { files } = await reachable(db);
  const list = await db.select({ hash: blobs.hash, bytes: blobs.bytes }).from(blobs);
  const count = await db.select({ name: results.name }).from(results);
  return {
    bytes: list.reduce((n, b) => n + b.bytes, 0),
    files: list.length,
    idleBytes: list.reduce((n, b) => n + (files.has(b.hash) ? 0 : b.bytes), 0),
    results: count.length,
  };
}

/** Collects now and then while the server runs. */
export function collectNowAndThen(): void {
  const go = () => void collect().catch((error) => console.error(error));
  setTimeout(go, 60_000).unref();
  setInterval(go, 3600_000).unref();
}
