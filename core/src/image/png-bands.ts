import { concatBytes } from '@noble/hashes/utils.js';
import { constants, Deflate } from 'pako';
import type { Packing, Pixels } from './png';

/** Rows of a band: so many that packing each by itself costs next to nothing, so few that a label leaves most of them alone. */
const ROWS = 64;
const SIGNATURE = [137, 80, 78, 71, 13, 10, 26, 10];
/** Colour types by channels (PNG specification, 11.2.1). */
const TYPES = { 1: 0, 2: 4, 3: 2, 4: 6 } as const;
/** zlib’s two bytes: deflate, a window of 32 kB, no dictionary (RFC 1950, 2.2). */
const ZLIB = [0x78, 0x9c];
/** An empty block that is the last (RFC 1951, 3.2.6). */
const LAST_BLOCK = [3, 0];

const CRC = Uint32Array.from({ length: 256 }, (_, n) => {
  let c = n;
  for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
  return c;
});

/** A chunk: its length, its four letters, its bytes, and the check over the last two (PNG specification, 5.3 and annex D). */
function chunk(letters: string, data: Uint8Array): Uint8Array {
  const out = new Uint8Array(12 + data.length);
  const view = new DataView(out.buffer);
  view.setUint32(0, data.length);
  for (let i = 0; i < 4; i++) out[4 + i] = letters.charCodeAt(i);
  out.set(data, 8);
  let c = 0xffffffff;
  for (let i = 4; i < 8 + data.length; i++) c = CRC[(c ^ out[i]) & 255] ^ (c >>> 8);
  view.setUint32(8 + data.length, (c ^ 0xffffffff) >>> 0);
  return out;
}

/** Sums of Adler-32 over some bytes, from their own beginning (RFC 1950, 8.2). */
function adler(bytes: Uint8Array): { a: number; b: number; length: number } {
  let [a, b] = [1, 0];
  for (let i = 0; i < bytes.length; ) {
    const end = Math.min(bytes.length, i + 3800);
    for (; i < end; i++) {
      a += bytes[i];
      b += a;
    }
    a %= 65521;
    b %= 65521;
  }
  return { a, b, length: bytes.length };
}

interface Band {
  chunk: Uint8Array;
  sums: ReturnType<typeof adler>;
}

/** Rows of a picture, each with the mark that it isn’t filtered, as one chunk that can stand beside any other. */
function packed(data: Uint8Array, row: number, from: number, to: number, level: Packing): Band {
  const raw = new Uint8Array((to - from) * (row + 1));
  for (let y = from; y < to; y++) raw.set(data.subarray(y * row, (y + 1) * row), (y - from) * (row + 1) + 1);
  const pieces: Uint8Array[] = [];
  const deflate = new Deflate({ level, raw: true });
  deflate.onData = (bytes) => {
    pieces.push(bytes as Uint8Array);
  };
  // Ends at a whole byte, and refers to nothing before its own beginning.
  deflate.push(raw, constants.Z_SYNC_FLUSH);
  return { chunk: chunk('IDAT', concatBytes(...pieces)), sums: adler(raw) };
}

function equal(a: Uint8Array, b: Uint8Array): boolean {
  const [x, y] = [wholes(a), wholes(b)];
  for (let i = 0; i < x.length; i++) if (x[i] !== y[i]) return false;
  return true;
}
/** Four bytes at once where they lie so. */
const wholes = (x: Uint8Array): Uint8Array | Uint32Array =>
  x.byteOffset % 4 === 0 && x.length % 4 === 0 ? new Uint32Array(x.buffer, x.byteOffset, x.length / 4) : x;

/**
 * Packs pictures of 8 bits as PNG by bands of rows. Bands that are as they were in the picture before are taken over from it, so that of
 * pictures that differ in a label only that is packed anew. The bytes follow from the picture alone, whatever was packed before.
 */
export class PngPacker {
  private last: { kind: string; data: Uint8Array; bands: Band[] } | null = null;

  /** @param p 8 bits; not to be written into afterwards */
  pack(p: Pixels, level: Packing = 4): Uint8Array {
    const { width, height, channels, depth } = p;
    if (depth !== 8) throw new Error('Bands are of 8 bits.');
    const data = p.data as Uint8Array;
    const row = channels * width;
    const kind = [width, height, channels, level].join();
    const before = this.last?.kind === kind ? this.last : null;
    const bands = Array.from({ length: Math.ceil(height / ROWS) }, (_, i): Band => {
      const [from, to] = [i * ROWS, Math.min(height, (i + 1) * ROWS)];
      const rows = data.subarray(from * row, to * row);
      if (before && equal(rows, before.data.subarray(from * row, to * row))) return before.bands[i];
      return packed(data, row, from, to, level);
    });
    this.last = { kind, data, bands };
    const head = new Uint8Array(13);
    const view = new DataView(head.buffer);
    view.setUint32(0, width);
    view.setUint32(4, height);
    head.set([8, TYPES[channels], 0, 0, 0], 8);
    let [a, b] = [1, 0];
    for (const { sums } of bands) {
      b = (b + sums.b + (sums.length % 65521) * (a + 65520)) % 65521;
      a = (a + sums.a + 65520) % 65521;
    }
    return concatBytes(
      Uint8Array.from(SIGNATURE),
      chunk('IHDR', head),
      chunk('IDAT', Uint8Array.from(ZLIB)),
      ...bands.map((x) => x.chunk),
      chunk('IDAT', Uint8Array.from([...LAST_BLOCK, b >> 8, b & 255, a >> 8, a & 255])),
      chunk('IEND', new Uint8Array()),
    );
  }
}
