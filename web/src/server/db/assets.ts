import { randomUUID } from 'node:crypto';
import { InputError } from '@wellmorph/core/errors';
import { applyCommand, type Command, inWords } from '@wellmorph/core/pipeline/commands/index';
import { type AssetDocument, upgradeDocument } from '@wellmorph/core/pipeline/document';
import { nameOf, namesOfAll } from '@wellmorph/core/pipeline/results';
import { and, asc, desc, eq, gt, isNull } from 'drizzle-orm';
import { applyPatches } from 'immer';
import { publish } from '../events';
import { type Database, database } from './client';
import { assets, changes, edits } from './schema';

/** A step of an asset's version, as another window is told of it. */
export interface Since {
  version: number;
  kind: 'edit' | 'undo' | 'redo';
  command: Command;
  words: string;
}

/** The asset was changed by someone else since the version a change was made on. */
export class StaleError extends Error {
  constructor(
    readonly version: number,
    readonly since: Since[],
  ) {
    const last = since
      .slice(-3)
      .map((s) => (s.kind === 'edit' ? s.words : `${s.kind === 'undo' ? 'took back' : 'brought back'}: ${s.words}`));
    super(`Someone else changed this asset in the meantime (${last.join('; ') || 'another window'}); yours was not applied.`);
  }
}

/** Which request of which page it is: sent twice, it is done once. */
export interface Origin {
  clientId: string;
  seq: number;
}

export interface AssetState {
  id: string;
  document: AssetDocument;
  version: number;
  /** Blob of its newest picture. */
  thumbnail: string | null;
  history: { id: number; words: string; advice: string | null; at: string; undone: boolean }[];
}
/** What a change came to. */
export interface Changed {
  version: number;
  words: string;
  /** What the picture of the document is called now: it follows from nearly all of it. Not told again when a request is repeated. */
  name?: string;
}

type Transaction = Parameters<Parameters<Database['transaction']>[0]>[0];

export async function listAssets() {
  const db = await database();
  const list = await db.select().from(assets).where(isNull(assets.deletedAt)).orderBy(asc(assets.createdAt));
  return list.map((a) => ({ ...a, document: upgradeDocument(a.document) }));
}

export async function createAsset(document: AssetDocument, thumbnail: string | null = null): Promise<string> {
  const db = await database();
  const id = randomUUID();
  await db.insert(assets).values({ id, name: document.name, document, names: namesOfAll(document), thumbnail });
  publish({ kind: 'assets' });
  return id;
}

async function row(id: string) {
  const db = await database();
  const [found] = await db
    .select()
    .from(assets)
    .where(and(eq(assets.id, id), isNull(assets.deletedAt)));
  if (!found) throw new InputError('asset/missing', 'This asset is not there any more.');
  return { ...found, document: upgradeDocument(found.document) };
}

/** @throws InputError when there is no such asset */
export async function mustExist(id: string): Promise<void> {
  await row(id);
}

export async function assetState(id: string): Promise<AssetState> {
  const db = await database();
  const asset = await row(id);
  const list = await db
    .select({ id: edits.id, words: edits.words, advice: edits.advice, at: edits.at, undone: edits.undone })
    .from(edits)
    .where(and(eq(edits.assetId, id), eq(edits.dropped, false)))
    .orderBy(asc(edits.id));
  return {
    id,
    document: asset.document,
    version: asset.version,
    thumbnail: asset.thumbnail,
    history: list.map((e) => ({ ...e, at: e.at.toISOString() })),
  };
}

/** A request that has been done already gets the answer it got then. */
async function answered(tx: Transaction, id: string, origin: Origin | null): Promise<Changed | null> {
  if (!origin) return null;
  const [done] = await tx
    .select({ version: changes.version, words: edits.words })
    .from(changes)
    .innerJoin(edits, eq(edits.id, changes.editId))
    .where(and(eq(changes.assetId, id), eq(changes.clientId, origin.clientId), eq(changes.seq, origin.seq)));
  return done ?? null;
}

/**
 * Does one thing to an asset at the version it was made on, in one transaction.
 *
 * @throws StaleError when that version is not the latest any more
 */
async function locked(
  id: string,
  baseVersion: number,
  origin: Origin | null,
  change: (
    asset: typeof assets.$inferSelect,
    tx: Transaction,
  ) => Promise<{ document: AssetDocument; edit: number; kind: Since['kind']; words: string }>,
): Promise<Changed> {
  const db = await database();
  const done = await db.transaction(async (tx) => {
    const [asset] = await tx
      .select()
      .from(assets)
      .where(and(eq(assets.id, id), isNull(assets.deletedAt)))
      .for('update');
    if (!asset) throw new InputError('asset/missing', 'This asset is not there any more.');
    const known = await answered(tx, id, origin);
    if (known) return known;
    if (asset.version !== baseVersion) {
      const since = await tx
        .select({ version: changes.version, kind: changes.kind, command: edits.command, words: edits.words })
        .from(changes)
        .innerJoin(edits, eq(edits.id, changes.editId))
        .where(and(eq(changes.assetId, id), gt(changes.version, baseVersion)))
        .orderBy(asc(changes.version));
      throw new StaleError(asset.version, since);
    }
    const made = await change({ ...asset, document: upgradeDocument(asset.document) }, tx);
    const version = asset.version + 1;
    await tx.insert(changes).values({ assetId: id, version, ...origin, kind: made.kind, editId: made.edit });
    await tx
      .update(assets)
      .set({ document: made.document, name: made.document.name, names: namesOfAll(made.document), version, updatedAt: new Date() })
      .where(eq(assets.id, id));
    return { version, words: made.words, name: nameOf(made.document, 'render') };
  });
  publish({ kind: 'asset', asset: id, version: done.version, clientId: origin?.clientId ?? null });
  return done;
}

/**
 * Applies a change made on `baseVersion`.
 *
 * @param advice the advice that is taken by it, in its words
 * @throws StaleError when that version is not the latest any more
 */
export function editAsset(
  id: string,
  baseVersion: number,
  command: Command,
  origin: Origin | null = null,
  advice: string | null = null,
): Promise<Changed> {
  return locked(id, baseVersion, origin, async (asset, tx) => {
    const { document, patches, inverse } = applyCommand(asset.document, command);
    const words = inWords(command, asset.document);
    await tx
      .update(edits)
      .set({ dropped: true })
      .where(and(eq(edits.assetId, id), eq(edits.undone, true)));
    const names = { before: namesOfAll(asset.document), after: namesOfAll(document) };
    const [{ edit }] = await tx
      .insert(edits)
      .values({ assetId: id, version: asset.version + 1, command, words, advice, patches, inverse, names })
      .returning({ edit: edits.id });
    return { document, edit, kind: 'edit', words };
  });
}

/** Takes the last change back, or the last taken-back one forward. */
export function stepHistory(id: string, baseVersion: number, direction: 'undo' | 'redo', origin: Origin | null = null): Promise<Changed> {
  return locked(id, baseVersion, origin, async (asset, tx) => {
    const live = and(eq(edits.assetId, id), eq(edits.dropped, false), eq(edits.undone, direction === 'redo'));
    const [edit] = await tx
      .select()
      .from(edits)
      .where(live)
      .orderBy(direction === 'undo' ? desc(edits.id) : asc(edits.id))
      .limit(1);
    if (!edit)
      throw new InputError(
        `history/${direction}`,
        direction === 'undo' ? 'There is nothing to take back.' : 'There is nothing to bring back.',
      );
    // A change made under an older schema is taken back into its own words; what is newer keeps its default.
    const document = upgradeDocument(applyPatches(asset.document, direction === 'undo' ? edit.inverse : edit.patches));
    await tx
      .update(edits)
      .set({ undone: direction === 'undo' })
      .where(eq(edits.id, edit.id));
    return { document, edit: edit.id, kind: direction, words: edit.words };
  });
}

export async function duplicateAsset(id: string): Promise<string> {
  const asset = await row(id);
  return createAsset({ ...asset.document, name: `${asset.document.name}, copy` }, asset.thumbnail);
}

/** Deleted assets stay in the database, so that deleting can be undone. */
export async function setDeleted(id: string, deleted: boolean): Promise<void> {
  const db = await database();
  const done = await db
    .update(assets)
    .set({ deletedAt: deleted ? new Date() : null })
    .where(eq(assets.id, id))
    .returning({ id: assets.id });
  if (done.length === 0) throw new InputError('asset/missing', 'This asset is not there any more.');
  publish({ kind: 'assets' });
}

export async function setThumbnail(id: string, thumbnail: string): Promise<void> {
  const db = await database();
  await db.update(assets).set({ thumbnail }).where(eq(assets.id, id));
  publish({ kind: 'assets' });
}
