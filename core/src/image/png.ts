import { type DecodedPng, decode, encode } from 'fast-png';
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

/**
 * A PNG’s pixels. Pictures by a palette become the colours it stands for, fewer bits than eight become eight.
 *
 * @throws InputError `png/unreadable`
 */
export function decodePng(bytes: Uint8Array): Pixels {
  try {
    const image = decode(bytes);
    const { width, height, palette } = image;
    if (palette) return coloured(unfolded(image, 1), width, height, palette);
    const channels = image.channels as Pixels['channels'];
    if (image.depth === 16) return { width, height, channels, depth: 16, data: image.data as Uint16Array };
    const data = image.depth === 8 ? (image.data as Uint8Array) : unfolded(image, 255 / (2 ** image.depth - 1));
    return { width, height, channels, depth: 8, data };
  } catch {
    throw new InputError('png/unreadable', 'The picture is not a whole PNG file.');
  }
}

/** Values that several share a byte of, one byte each, times a factor: rows begin at a whole byte (PNG specification, 7.2). */
function unfolded({ width, height, depth, data }: DecodedPng, factor: number): Uint8Array {
  const out = new Uint8Array(width * height);
  const row = Math.ceil((width * depth) / 8);
  const [each, most] = [8 / depth, 2 ** depth - 1];
  for (let y = 0, o = 0; y < height; y++)
    for (let x = 0; x < width; x++, o++) {
      const byte = data[y * row + Math.floor(x / each)];
      out[o] = factor * ((byte >> (8 - depth * ((x % each) + 1))) & most);
    }
  return out;
}

/** The colours that a palette has for numbers, with alpha where any of them has. */
function coloured(numbers: Uint8Array, width: number, height: number, palette: readonly (readonly number[])[]): Pixels {
  const channels = palette.some((c) => c.length > 3 && c[3] < 255) ? 4 : 3;
  const data = new Uint8Array(channels * width * height);
  for (let i = 0; i < numbers.length; i++) {
    const colour = palette[numbers[i]] ?? [0, 0, 0, 255];
    for (let k = 0; k < channels; k++) data[channels * i + k] = colour[k] ?? 255;
  }
  return { width, height, channels, depth: 8, data };
}
