import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { KitLoader } from '../src/kit-load';

const require = createRequire(import.meta.url);
/** In pieces: a bundler would take its name for a module of its own. */
const FONT = ['@fontsource/archivo', 'files', 'archivo-latin-600-normal.woff'];

/** General-purpose libraries as Node finds them, for the server and the command line: where the package manager put them. */
export const kits = new KitLoader({
  async font() {
    const bytes = await readFile(require.resolve(FONT.join('/')));
    return bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength) as ArrayBuffer;
  },
});
