import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { KitLoader } from '@wellmorph/core/kit-load';

const require = createRequire(import.meta.url);

/** General-purpose libraries as the command line finds them: where the package manager put them. */
export const kits = new KitLoader({
  async font() {
    const bytes = await readFile(require.resolve('@fontsource/archivo/files/archivo-latin-600-normal.woff'));
    return bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength) as ArrayBuffer;
  },
});
