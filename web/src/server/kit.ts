import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { KitLoader } from '@wellmorph/core/kit-load';

const require = createRequire(import.meta.url);
const FONT = ['@fontsource/archivo', 'files', 'archivo-latin-600-normal.woff'];

/** General-purpose libraries as the server finds them: where the package manager put them. */
export const kits = new KitLoader({
  async font() {
    // Named in pieces: the bundler would take it for a module of its own.
    const bytes = await readFile(require.resolve(FONT.join('/')));
    return bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength) as ArrayBuffer;
  },
});
