import { decode, encode } from 'fast-png';
import { InputError } from '../errors';

/** Pixels, top row first. 8-bit values 0…255 or 16-bit 0…65535. */
export interface Pixels {
  width: number;
  height: number;
  channels: 1 | 2 | 3 | 4;
  depth: 8 | 16;
  data: Uint8Array | Uint16Array;
}

/** How hard a picture is packed, of 9: 4 is quicker than the usual 6 and hardly larger for maps, 1 is enough for what is mostly one colour. */
export type Packing = 1 | 4;

export const encodePng = (p: Pixels, level: Packing = 4): Uint8Array =>
  new Uint8Array(encode({ width: p.width, height: p.height, channels: p.channels, depth: p.depth, data: p.data }, { zlib: { level } }));

/** @throws InputError `png/unreadable` */
export function decodePng(bytes: Uint8Array): Pixels {
  try {
    const image = decode(bytes);
    return {
      width: image.width,
      height: image.height,
      channels: image.channels as Pixels['channels'],
      depth: image.depth === 16 ? 16 : 8,
      data: image.data as Uint8Array,
    };
  } catch {
    throw new InputError('png/unreadable', 'The picture is not a whole PNG file.');
  }
}
