import { join } from 'node:path';
import { pathToFileURL } from 'node:url';

/**
 * Where the package manager put a file: looked for from this module, then from where the process runs. Asked of Node itself: a bundler
 * would take the name for a module of its own, or refuse to look.
 */
export function placeOf(file: string): string {
  const { createRequire } = process.getBuiltinModule('node:module');
  try {
    return createRequire(import.meta.url).resolve(file);
  } catch {
    return createRequire(pathToFileURL(join(process.cwd(), 'here'))).resolve(file);
  }
}
