export const isPng = (bytes: Uint8Array): boolean => bytes.length > 24 && [0x89, 0x50, 0x4e, 0x47].every((b, i) => bytes[i] === b);
export const isJpeg = (bytes: Uint8Array): boolean => bytes.length > 4 && bytes[0] === 0xff && bytes[1] === 0xd8;
const says = (bytes: Uint8Array, at: number, word: string): boolean => [...word].every((c, i) => bytes[at + i] === c.charCodeAt(0));
/** A RIFF container of the form WEBP (RFC 9649, 2.4). */
export const isWebp = (bytes: Uint8Array): boolean => bytes.length > 30 && says(bytes, 0, 'RIFF') && says(bytes, 8, 'WEBP');
/** The identifier of a KTX 2.0 file (KTX File Format Specification 2.0, 3.1). */
export const isKtx2 = (bytes: Uint8Array): boolean =>
  bytes.length > 80 && [0xab, 0x4b, 0x54, 0x58, 0x20, 0x32, 0x30, 0xbb, 0x0d, 0x0a, 0x1a, 0x0a].every((b, i) => bytes[i] === b);

/** What the head of a picture file says of it. */
export interface PictureHead {
  kind: 'PNG' | 'JPEG';
  width: number;
  height: number;
  /** Four in a JPEG are the inks of a print. */
  channels: number;
  /** Bits of each. */
  depth: number;
}

/** The head of a PNG or JPEG, as it is stored; null for anything else, and for what is broken off before it. */
export function pictureHead(bytes: Uint8Array): PictureHead | null {
  try {
    if (isPng(bytes)) {
      const [width, height] = pngSize(bytes);
      // Colour types: grey, RGB, palette, grey and alpha, RGBA (PNG specification, 11.2.2).
      return { kind: 'PNG', width, height, channels: [1, 1, 3, 3, 2, 2, 4][bytes[25]] ?? 0, depth: bytes[24] };
    }
    const frame = isJpeg(bytes) ? jpegFrame(bytes) : -1;
    if (frame < 0) return null;
    const [width, height] = jpegSize(bytes);
    return { kind: 'JPEG', width, height, channels: bytes[frame + 9], depth: bytes[frame + 4] };
  } catch {
    return null;
  }
}

/** Width and height of a PNG, JPEG, WebP or KTX 2.0 picture from its first bytes, px; null for anything else. */
export function pictureSize(bytes: Uint8Array): readonly [number, number] | null {
  try {
    if (isPng(bytes)) return pngSize(bytes);
    if (isJpeg(bytes)) return jpegSize(bytes);
    if (isWebp(bytes)) return webpHead(bytes).size;
    return isKtx2(bytes) ? ktx2Size(bytes) : null;
  } catch {
    return null;
  }
}

/** What the first chunk of a WebP says: its size, whether it has alpha, whether it moves (RFC 9649, 2.5 to 2.7 and 3.4; RFC 6386, 9.1). */
export function webpHead(b: Uint8Array): { size: [number, number]; alpha: boolean; moves: boolean } {
  const [u16, u24] = [(i: number) => b[i] | (b[i + 1] << 8), (i: number) => b[i] | (b[i + 1] << 8) | (b[i + 2] << 16)];
  if (says(b, 12, 'VP8X')) return { size: [u24(24) + 1, u24(27) + 1], alpha: (b[20] & 16) !== 0, moves: (b[20] & 2) !== 0 };
  if (says(b, 12, 'VP8L')) {
    const bits = (u16(21) | (u16(23) << 16)) >>> 0;
    return { size: [(bits & 0x3fff) + 1, ((bits >>> 14) & 0x3fff) + 1], alpha: ((bits >>> 28) & 1) === 1, moves: false };
  }
  return { size: [u16(26) & 0x3fff, u16(28) & 0x3fff], alpha: false, moves: false };
}

/** pixelWidth and pixelHeight (KTX File Format Specification 2.0, 3). */
function ktx2Size(b: Uint8Array): [number, number] {
  const view = new DataView(b.buffer, b.byteOffset, b.byteLength);
  return [view.getUint32(20, true), view.getUint32(24, true)];
}

export function pngSize(b: Uint8Array): [number, number] {
  const view = new DataView(b.buffer, b.byteOffset, b.byteLength);
  return [view.getUint32(16), view.getUint32(20)];
}

/** Where the frame header stands (ITU-T T.81, B.2.2); −1 where there is none. */
function jpegFrame(b: Uint8Array): number {
  for (let i = 2; i + 9 < b.length; ) {
    if (b[i] !== 0xff) break;
    const marker = b[i + 1];
    if (marker >= 0xc0 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker)) return i;
    i += 2 + ((b[i + 2] << 8) | b[i + 3]);
  }
  return -1;
}

export function jpegSize(b: Uint8Array): [number, number] {
  const i = jpegFrame(b);
  return i < 0 ? [0, 0] : [(b[i + 7] << 8) | b[i + 8], (b[i + 5] << 8) | b[i + 6]];
}
