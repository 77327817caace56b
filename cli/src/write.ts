import { rename, rm, writeFile } from 'node:fs/promises';
import { InputError } from '@wellmorph/core/errors';

/** Writes a whole file or none: beside it first, then under its name. @throws InputError when there is no room or no leave */
export async function writeWhole(path: string, bytes: Uint8Array): Promise<void> {
  const beside = `${path}.part`;
  try {
    await writeFile(beside, bytes);
    await rename(beside, path);
  } catch (error) {
    await rm(beside, { force: true }).catch(() => {});
    const code = (error as NodeJS.ErrnoException).code;
    const why =
      code === 'ENOSPC'
        ? 'the disk is full'
        : code === 'ENOENT'
          ? 'its folder is not there'
          : code === 'EACCES' || code === 'EPERM' || code === 'EROFS'
            ? 'it may not be written there'
            : (code ?? 'unknown');
    throw new InputError('file/write', `“${path}” was not written: ${why}. Nothing is left of it.`);
  }
}
