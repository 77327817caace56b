import { readFile } from 'node:fs/promises';
import { KitLoader } from '../src/kit-load';
import { placeOf } from './place';

const DRAWINGS = '@resvg/resvg-wasm/index_bg.wasm';
const FONT = '@fontsource/archivo/files/archivo-latin-600-normal.woff';

/** General-purpose libraries as Node finds them, for the server and the command line: where the package manager put them. */
export const kits = new KitLoader({ font: () => bytesOf(FONT), drawings: () => bytesOf(DRAWINGS) });

async function bytesOf(file: string): Promise<ArrayBuffer> {
  const bytes = await readFile(placeOf(file));
  return bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength) as ArrayBuffer;
}
