export const isPng = (bytes: Uint8Array): boolean => bytes.length > 24 && [0x89, 0x50, 0x4e, 0x47].every((b, i) => bytes[i] === b);
export const isJpeg = (bytes: Uint8Array): boolean => bytes.length > 4 && bytes[0] === 0xff && bytes[1] === 0xd8;

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

/** Width and height of a PNG or JPEG from its first bytes, px; null for anything else. */
export function pictureSize(bytes: Uint8Array): readonly [number, number] | null {
  try {
    return isPng(bytes) ? pngSize(bytes) : isJpeg(bytes) ? jpegSize(bytes) : null;
  } catch {
    return null;
  }
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
