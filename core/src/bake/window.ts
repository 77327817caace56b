import { LAYERS, noCounts } from './bands';
import type { Texels } from './texels';

/** A square of a map, texels from its upper left corner. */
export interface Window {
  x: number;
  y: number;
  side: number;
}
/** A rectangle of the tile, shares of its side, from the upper left corner. */
export interface TileRect {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** No window is smaller, texels. */
const LEAST = 16;

/** The smallest square of a map that holds a rectangle of the tile. */
export function windowOn({ x, y, width, height }: TileRect, size: number): Window {
  const side = Math.min(size, Math.max(LEAST, Math.ceil(Math.max(width, height) * size)));
  const from = (at: number) => Math.min(size - side, Math.max(0, Math.floor(at * size)));
  return { x: from(x), y: from(y), side };
}

/** What was found in a window, as a map of its own. */
export function windowOf(texels: Texels, { x, y, side }: Window): Texels {
  const { size } = texels;
  const cut = <T extends Float32Array | Uint16Array | Uint8Array>(of: T): T => {
    const each = of.length / (size * size);
    const out = new (of.constructor as new (n: number) => T)(each * side * side);
    for (let row = 0; row < side; row++)
      out.set(of.subarray(each * ((y + row) * size + x), each * ((y + row) * size + x + side)) as never, each * row * side);
    return out;
  };
  const layers = Object.fromEntries(LAYERS.map((l) => [l, cut(texels[l] as Float32Array)]));
  return { ...(layers as unknown as Texels), size: side, counts: noCounts(0) };
}
