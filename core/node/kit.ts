import { readFile } from 'node:fs/promises';
import { KitLoader } from '../src/kit-load';
import { placeOf } from './place';

const FONT = '@fontsource/archivo/files/archivo-latin-600-normal.woff';

/** General-purpose libraries as Node finds them, for the server and the command line: where the package manager put them. */
export const kits = new KitLoader({
  async font() {
    const bytes = await readFile(placeOf(FONT));
    return bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength) as ArrayBuffer;
  },
});
