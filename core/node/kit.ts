import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { KitLoader } from '../src/kit-load';

const FONT = '@fontsource/archivo/files/archivo-latin-600-normal.woff';

/**
 * Where the package manager put a file: looked for from this module, then from where the process runs. Asked of Node itself: a bundler
 * would take the name for a module of its own, or refuse to look.
 */
function placeOf(file: string): string {
  const { createRequire } = process.getBuiltinModule('node:module');
  try {
    return createRequire(import.meta.url).resolve(file);
  } catch {
    return createRequire(pathToFileURL(join(process.cwd(), 'here'))).resolve(file);
  }
}

/** General-purpose libraries as Node finds them, for the server and the command line: where the package manager put them. */
export const kits = new KitLoader({
  async font() {
    const bytes = await readFile(placeOf(FONT));
    return bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength) as ArrayBuffer;
  },
});
