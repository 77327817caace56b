import { randomUUID } from 'node:crypto';
import { InputError } from '@wellmorph/core/errors';
import { applyCommand, type Command, inWords } from '@wellmorph/core/pipeline/commands';
import { type AssetDocument, upgradeDocument } from '@wellmorph/core/pipeline/document';
import { and, asc, desc, eq, gt, isNull } from 'drizzle-orm';
import { applyPatches } from 'immer';
import { database } from './client';
import { assets, edits } from './schema';

/** The asset was changed by someone else since the version a change was made on. */
export class StaleError extends Error {
  constructor(
    readonly version: number,
    readonly since: string[],
  ) {
    super(`Someone else changed this asset in the meantime (${since.slice(-3).join('; ') || 'another window'}); yours was not applied.`);
  }
}

export interface AssetState {
  id: string;
  document: AssetDocument;
  version: number;
  /** Blob of its newest picture. */
  thumbnail: string | null;
  history: { id: number; words: string; at: string; undone: boolean }[];
}

export async function listAssets() {
  const db = await database();
  const list = await db.select().from(assets).where(isNull(assets.deletedAt)).orderBy(asc(assets.createdAt));
  return list.map((a) => ({ ...a, document: upgradeDocument(a.document) }));
}

export async function createAsset(document: AssetDocument, thumbnail: string | null = null): Promise<string> {
  const db = await database();
  const id = randomUUID();
  await db.insert(assets).values({ id, name: document.name, document, thumbnail });
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

export async function assetState(id: string): Promise<AssetState> {
  const db = await database();
  const asset = await row(id);
  const list = await db
    .select({ id: edits.id, words: edits.words, at: edits.at, undone: edits.undone })
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

async function locked<T>(
  id: string,
  baseVersion: number | null,
  change: (
    asset: typeof assets.$inferSelect,
    tx: Parameters<Parameters<Awaited<ReturnType<typeof database>>['transaction']>[0]>[0],
  ) => Promise<T>,
): Promise<T> {
  const db = await database();
  return db.transaction(async (tx) => {
    const [asset] = await tx
      .select()
      .from(assets)
      .where(and(eq(assets.id, id), isNull(assets.deletedAt)))
      .for('update');
    if (!asset) throw new InputError('asset/missing', 'This asset is not there any more.');
    if (baseVersion !== null && asset.version !== baseVersion) {
      const since = await tx
        .select({ words: edits.words })
        .from(edits)
        .where(and(eq(edits.assetId, id), gt(edits.version, baseVersion)))
        .orderBy(asc(edits.id));
      throw new StaleError(
        asset.version,
        since.map((e) => e.words),
      );
    }
    return change({ ...asset, document: upgradeDocument(asset.document) }, tx);
  });
}

/** Applies a change made on `baseVersion`. @returns the new version @throws StaleError when it is not the latest any more */
export function editAsset(id: string, baseVersion: number, command: Command): Promise<{ version: number }> {
  return locked(id, baseVersion, async (asset, tx) => {
    const { document, patches, inverse } = applyCommand(asset.document, command);
    const version = asset.version + 1;
    await tx
      .update(edits)
      .set({ dropped: true })
      .where(and(eq(edits.assetId, id), eq(edits.undone, true)));
    await tx.insert(edits).values({ assetId: id, version, command, words: inWords(command, asset.document), patches, inverse });
    await tx.update(assets).set({ document, name: document.name, version, updatedAt: new Date() }).where(eq(assets.id, id));
    return { version };
  });
}

/** Takes the last change back, or the last taken-back one forward. */
export function stepHistory(id: string, baseVersion: number, direction: 'undo' | 'redo'): Promise<{ version: number; words: string }> {
  return locked(id, baseVersion, async (asset, tx) => {
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
    const version = asset.version + 1;
    await tx
      .update(edits)
      .set({ undone: direction === 'undo' })
      .where(eq(edits.id, edit.id));
    await tx.update(assets).set({ document, name: document.name, version, updatedAt: new Date() }).where(eq(assets.id, id));
    return { version, words: edit.words };
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
}

export async function setThumbnail(id: string, thumbnail: string): Promise<void> {
  const db = await database();
  await db.update(assets).set({ thumbnail }).where(eq(assets.id, id));
}
