import { zlibSync } from 'fflate';

/** Rows that are packed together, as the format has it for this way of packing. */
const BLOCK = 16;
const FLOAT = 2;
const ZIP = 3;

/**
 * A picture of 32-bit floats as an OpenEXR file: one part, scan lines, packed by ZIP (“OpenEXR File Layout”, Academy Software Foundation).
 *
 * @param channels names and values, a value a pixel, top row first; stored in the order of their names, as the format asks
 */
export function encodeExr(width: number, height: number, channels: Readonly<Record<string, Float32Array>>): Uint8Array {
  const names = Object.keys(channels).sort();
  const header = headerOf(width, height, names);
  const blocks = Math.ceil(height / BLOCK);
  const chunks: Uint8Array[] = [];
  for (let b = 0; b < blocks; b++) chunks.push(packed(width, Math.min(BLOCK, height - b * BLOCK), b * BLOCK, names, channels));
  const table = 8 * blocks;
  const total = header.length + table + chunks.reduce((n, c) => n + 8 + c.length, 0);
  const out = new Uint8Array(total);
  const view = new DataView(out.buffer);
  out.set(header);
  let at = header.length + table;
  for (const [b, chunk] of chunks.entries()) {
    view.setBigUint64(header.length + 8 * b, BigInt(at), true);
    view.setInt32(at, b * BLOCK, true);
    view.setInt32(at + 4, chunk.length, true);
    out.set(chunk, at + 8);
    at += 8 + chunk.length;
  }
  return out;
}

function headerOf(width: number, height: number, names: readonly string[]): Uint8Array {
  const bytes: number[] = [0x76, 0x2f, 0x31, 0x01, 2, 0, 0, 0];
  const text = (s: string) => bytes.push(...new TextEncoder().encode(s), 0);
  const numbers = (view: (v: DataView) => void, size: number) => {
    const b = new Uint8Array(size);
    view(new DataView(b.buffer));
    bytes.push(...b);
  };
  const int = (x: number) => numbers((v) => v.setInt32(0, x, true), 4);
  const float = (x: number) => numbers((v) => v.setFloat32(0, x, true), 4);
  const field = (name: string, type: string, size: number, write: () => void) => {
    text(name);
    text(type);
    int(size);
    write();
  };
  const window = () => [0, 0, width - 1, height - 1].forEach(int);
  field(
    'channels',
    'chlist',
    names.reduce((n, c) => n + c.length + 1 + 16, 1),
    () => {
      for (const c of names) {
        text(c);
        int(FLOAT);
        int(0);
        int(1);
        int(1);
      }
      bytes.push(0);
    },
  );
  field('compression', 'compression', 1, () => bytes.push(ZIP));
  field('dataWindow', 'box2i', 16, window);
  field('displayWindow', 'box2i', 16, window);
  field('lineOrder', 'lineOrder', 1, () => bytes.push(0));
  field('pixelAspectRatio', 'float', 4, () => float(1));
  field('screenWindowCenter', 'v2f', 8, () => {
    float(0);
    float(0);
  });
  field('screenWindowWidth', 'float', 4, () => float(1));
  bytes.push(0);
  return Uint8Array.from(bytes);
}

/** A block of rows: row by row, channel by channel; even bytes before odd ones, each as its difference to the one before, then zlib. */
function packed(
  width: number,
  rows: number,
  from: number,
  names: readonly string[],
  channels: Readonly<Record<string, Float32Array>>,
): Uint8Array {
  const raw = new Uint8Array(4 * width * rows * names.length);
  const view = new DataView(raw.buffer);
  let at = 0;
  for (let y = from; y < from + rows; y++)
    for (const c of names) {
      const values = channels[c];
      for (let x = 0; x < width; x++, at += 4) view.setFloat32(at, values[y * width + x], true);
    }
  const split = new Uint8Array(raw.length);
  const half = (raw.length + 1) >> 1;
  for (let i = 0; i < raw.length; i++) split[(i & 1 ? half : 0) + (i >> 1)] = raw[i];
  let last = split[0];
  for (let i = 1; i < split.length; i++) {
    const now = split[i];
    split[i] = (now - last + 384) & 255;
    last = now;
  }
  const small = zlibSync(split, { level: 4 });
  // What doesn’t become smaller is stored as it is.
  return small.length < raw.length ? small : raw;
}
