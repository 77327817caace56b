import { readFile } from 'node:fs/promises';
import { codecsFor as load } from '../src/io/codecs';
import { placeOf } from './place';

/** What pictures need to be unpacked, as Node finds it. @throws WellmorphError where a library can’t be read */
export const codecsFor = (pictures: Iterable<{ bytes: Uint8Array }>): Promise<void> =>
  load(pictures, {
    webp: async () => WebAssembly.compile(await readFile(placeOf('@jsquash/webp/codec/dec/webp_dec.wasm'))),
  });
