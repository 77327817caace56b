import { createHash, randomUUID } from 'node:crypto';
import { mkdir, open, readFile, rename, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { InputError } from '@wellmorph/core/errors';
import { database } from '../db/client';
import { blobs } from '../db/schema';
import { dataDir } from '../paths';

const pathOf = (hash: string): string => join(/* turbopackIgnore: true */ dataDir(), 'blobs', hash.slice(0, 2), hash);
const HASH = /^[0-9a-f]{64}$/;

/** One thing at a time for each file: it isn't removed while it is being handed in again. Kept on globalThis, for every route's copy. */
const home = globalThis as { wellmorphFiles?: Map<string, Promise<unknown>> };
export async function alone<T>(hash: string, work: () => Promise<T>): Promise<T> {
  home.wellmorphFiles ??= new Map();
  const files = home.wellmorphFiles;
  const before = files.get(hash) ?? Promise.resolve();
  const mine = before.catch(() => {}).then(work);
  files.set(hash, mine);
  try {
    return await mine;
  } finally {
    if (files.get(hash) === mine) files.delete(hash);
  }
}

/** Keeps bytes under their SHA-256: temporary file, flushed, renamed, then the row. The same bytes are kept once. */
export async function keepBlob(bytes: Uint8Array, kind: string): Promise<string> {
  const hash = createHash('sha256').update(bytes).digest('hex');
  await alone(hash, async () => {
    if (!(await stat(pathOf(hash)).catch(() => null))) await write(hash, bytes);
    const db = await database();
    const touchedAt = new Date();
    await db
      .insert(blobs)
      .values({ hash, bytes: bytes.length, kind, touchedAt })
      .onConflictDoUpdate({ target: blobs.hash, set: { touchedAt } });
  });
  return hash;
}

async function write(hash: string, bytes: Uint8Array): Promise<void> {
  const folder = join(/* turbopackIgnore: true */ dataDir(), 'blobs', hash.slice(0, 2));
  await mkdir(folder, { recursive: true });
  const temporary = join(/* turbopackIgnore: true */ folder, `.${randomUUID()}`);
  try {
    const file = await open(temporary, 'w');
    await file.writeFile(bytes);
    await file.sync();
    await file.close();
    await rename(temporary, pathOf(hash));
  } catch (error) {
    await rm(temporary, { force: true });
    if ((error as NodeJS.ErrnoException).code === 'ENOSPC') throw new InputError('blob/full', 'The disk is full; nothing was stored.');
    throw error;
  }
}

/** @throws InputError `blob/missing` */
export async function readBlob(hash: string): Promise<Uint8Array<ArrayBuffer>> {
  if (!HASH.test(hash)) throw new InputError('blob/name', 'That is not the name of a stored file.');
  try {
    return new Uint8Array(await readFile(pathOf(hash)));
  } catch {
    throw new InputError('blob/missing', 'A stored file is not there.');
  }
}

export async function hasBlob(hash: string): Promise<boolean> {
  return HASH.test(hash) && Boolean(await stat(pathOf(hash)).catch(() => null));
}

/** Removes a file, and whatever else was left of it. For the collector, inside {@link alone}. */
export const removeFile = (hash: string): Promise<void> => rm(pathOf(hash), { force: true });
