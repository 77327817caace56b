import { mkdir, open, readdir, rename, rm, rmdir, stat, writeFile } from 'node:fs/promises';
import { dirname, join, resolve } from 'node:path';
import { InputError } from '@wellmorph/core/errors';

/** Standard input or output in place of a file. */
export const STANDARD = '-';

const beside = (path: string): string => `${path}.${process.pid}.part`;

function refused(path: string, error: unknown): InputError {
  const { code } = error as NodeJS.ErrnoException;
  const why =
    code === 'ENOSPC'
      ? 'the disk is full'
      : code === 'ENOENT'
        ? 'its folder is not there'
        : code === 'EACCES' || code === 'EPERM' || code === 'EROFS'
          ? 'it may not be written there'
          : code === 'ENOTDIR'
            ? 'it would lie in a file'
            : code === 'EISDIR'
              ? 'it is a folder'
              : (code ?? 'unknown');
  return new InputError('file/write', `“${path}” was not written: ${why}. Nothing is left of it.`);
}

/**
 * Where a command's result goes, tried before the work is done: a name that ends as it should, in a place that can be written to.
 *
 * @throws InputError when it can't
 */
export async function outputTo(path: string | undefined, ending: string, command: string): Promise<string> {
  if (path === STANDARD) return path;
  if (!path?.toLowerCase().endsWith(ending)) throw new InputError('cli/out', `${command} needs -o with a name that ends in ${ending}.`);
  await tryOutput(path);
  return path;
}

/** @throws InputError when nothing can be written under the name */
export async function tryOutput(path: string): Promise<void> {
  if (path === STANDARD) return;
  try {
    const there = await stat(path).catch(() => null);
    if (there?.isDirectory()) throw Object.assign(new Error(), { code: 'EISDIR' });
    await (await open(beside(path), 'w')).close();
    await rm(beside(path), { force: true });
  } catch (error) {
    throw refused(path, error);
  }
}

/** @throws InputError when no files can be written into the folder, which may not be there yet */
export async function tryFolder(path: string): Promise<void> {
  let nearest = resolve(path);
  for (;;) {
    const there = await stat(nearest).catch(() => null);
    if (there && !there.isDirectory()) throw refused(path, { code: 'ENOTDIR' });
    if (there) break;
    nearest = dirname(nearest);
  }
  await tryOutput(join(nearest, 'wellmorph')).catch(() => {
    throw refused(path, { code: 'EACCES' });
  });
}

/** Writes a whole file or none: beside it first, then under its name. @throws InputError when there is no room or no leave */
export async function writeWhole(path: string, bytes: Uint8Array): Promise<void> {
  if (path === STANDARD) return toStandardOutput(bytes);
  await writeAll([[path, bytes]]);
}

/** Writes all of several files or none of them. @throws InputError when there is no room or no leave */
export async function writeAll(files: readonly (readonly [path: string, bytes: Uint8Array])[]): Promise<void> {
  let at = files[0]?.[0] ?? '';
  try {
    for (const [path, bytes] of files) {
      at = path;
      await writeFile(beside(path), bytes);
    }
    for (const [path] of files) {
      at = path;
      await rename(beside(path), path);
    }
  } catch (error) {
    await Promise.all(files.map(([path]) => rm(beside(path), { force: true }).catch(() => {})));
    throw refused(at, error);
  }
}

/** Writes files into a folder, made where it isn't there; none of it stays where one can't be written. */
export async function writeInto(folder: string, files: readonly (readonly [name: string, bytes: Uint8Array])[]): Promise<string[]> {
  const made = await mkdir(folder, { recursive: true }).catch((error: unknown) => {
    throw refused(folder, error);
  });
  const paths = files.map(([name, bytes]) => [join(folder, name), bytes] as const);
  try {
    await writeAll(paths);
  } catch (error) {
    if (made !== undefined && (await readdir(folder)).length === 0) await rmdir(folder).catch(() => {});
    throw error;
  }
  return paths.map(([path]) => path);
}

const toStandardOutput = (bytes: Uint8Array): Promise<void> =>
  new Promise((ok, no) => process.stdout.write(bytes, (error) => (error ? no(refused('standard output', error)) : ok())));
