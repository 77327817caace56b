import { createHash, randomUUID } from 'node:crypto';
import { mkdir, open, readFile, rename, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { InputError } from '@wellmorph/core/errors';
import { database } from '../db/client';
import { blobs } from '../db/schema';
import { dataDir } from '../paths';

const pathOf = (hash: string): string => join(/* turbopackIgnore: true */ dataDir(), 'blobs', hash.slice(0, 2), hash);
const HASH = /^[0-9a-f]{64}$/;

/** Keeps bytes under their SHA-256: temporary file, flushed, renamed, then the row. The same bytes are kept once. */
export async function keepBlob(bytes: Uint8Array, kind: string): Promise<string> {
  const hash = createHash('sha256').update(bytes).digest('hex');
  const path = pathOf(hash);
  if (!(await stat(path).catch(() => null))) {
    const folder = join(/* turbopackIgnore: true */ dataDir(), 'blobs', hash.slice(0, 2));
    await mkdir(folder, { recursive: true });
    const temporary = join(/* turbopackIgnore: true */ folder, `.${randomUUID()}`);
    try {
      const file = await open(temporary, 'w');
      await file.writeFile(bytes);
      await file.sync();
      await file.close();
      await rename(temporary, path);
    } catch (error) {
      await rm(temporary, { force: true });
      if ((error as NodeJS.ErrnoException).code === 'ENOSPC') throw new InputError('blob/full', 'The disk is full; nothing was stored.');
      throw error;
    }
  }
  const db = await database();
  await db.insert(blobs).values({ hash, bytes: bytes.length, kind }).onConflictDoNothing();
  return hash;
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
