import { InputError, WellmorphError } from '../errors';
import { decodePng, type Pixels } from '../image/png';
import { type Content, scaleDown } from '../image/scale';
import { type Kit, needed } from '../kit';
import { drawnArtwork } from '../print/open';
import type { Drawing } from '../print/set';

/** A picture of a contact sheet, PNG bytes, and what stands under it. */
export interface ContactPicture {
  name: string;
  png: Uint8Array;
}

/** Widest a sheet gets, px; pictures are made smaller for it, all by as much. */
const WIDEST = 4096;
const PAPER = [246, 245, 242];
const INK: [number, number, number] = [0.12, 0.13, 0.15];

/** Columns and rows that come nearest to a page half as wide again as it is high. */
function gridFor(count: number, aspect: number): { columns: number; rows: number } {
  let best = { columns: count, rows: 1, off: Infinity };
  for (let columns = 1; columns <= count; columns++) {
    const rows = Math.ceil(count / columns);
    const empty = columns * rows - count;
    const off = Math.abs(Math.log((columns * aspect) / rows / 1.5)) + 0.4 * empty;
    if (off < best.off) best = { columns, rows, off };
  }
  return best;
}

/**
 * Pictures of one size side by side on one sheet, each with its name under it: nothing but their size is changed, so that they can be
 * compared.
 *
 * @param kit with what drawings and texts are drawn by
 * @throws InputError when there are none, or they differ in size: then they don’t match
 */
export function contactSheet(list: readonly ContactPicture[], kit: Kit): Pixels {
  return sheetOf(
    list.map(({ name, png }) => ({ name, pixels: decodePng(png) })),
    kit,
  );
}

/** Side of a map on the sheet of a set, px. */
const MAP_PX = 512;
/** The maps of a set on one sheet, each with its name under it. @param kit with what drawings and texts are drawn by */
export const setSheet = (maps: readonly { name: string; pixels: Pixels; content: Content }[], kit: Kit): Pixels =>
  sheetOf(
    maps.map(({ name, pixels, content }) => ({
      name,
      pixels: pixels.width > MAP_PX ? scaleDown(pixels, MAP_PX, MAP_PX, content) : pixels,
    })),
    kit,
  );

function sheetOf(list: readonly { name: string; pixels: Pixels }[], kit: Kit): Pixels {
  if (list.length === 0) throw new InputError('sheet/none', 'There is no picture to put on the sheet yet.');
  const pictures = list.map((p) => p.pixels);
  const [{ width, height }] = pictures;
  if (pictures.some((p) => p.width !== width || p.height !== height))
    throw new InputError('sheet/sizes', 'The pictures are not of one size, so they can’t stand beside each other; render them again.');
  const { columns, rows } = gridFor(list.length, width / height);
  const gap = Math.max(8, Math.round(width / 40));
  const scale = Math.min(1, (WIDEST - gap * (columns + 1)) / (columns * width));
  const [w, h] = [Math.max(1, Math.floor(width * scale)), Math.max(1, Math.floor(height * scale))];
  const capital = Math.max(9, Math.round(h / 46));
  const label = Math.round(2.6 * capital);
  const sheet: Pixels = {
    width: columns * w + (columns + 1) * gap,
    height: rows * (h + label) + (rows + 1) * gap,
    channels: 3,
    depth: 8,
    data: new Uint8Array(),
  };
  const data = new Uint8Array(3 * sheet.width * sheet.height);
  for (let i = 0; i < data.length; i++) data[i] = PAPER[i % 3];
  for (const [n, picture] of pictures.entries()) {
    const [x, y] = [gap + (n % columns) * (w + gap), gap + Math.floor(n / columns) * (h + label + gap)];
    lay(data, sheet.width, scale < 1 ? scaleDown(picture, w, h, 'colour') : picture, x, y);
    const name = named(list[n].name, capital, w, kit);
    if (name) lay(data, sheet.width, name, x, y + h + Math.round((label - name.height) / 2));
  }
  return { ...sheet, data };
}

/** A name as a picture no wider than its column; null where it can’t be set in the typeface. */
function named(name: string, capital: number, widest: number, kit: Kit): Pixels | null {
  let drawing: Drawing;
  try {
    drawing = drawnArtwork({ kind: 'text', text: name, capital, tracking: 20, leading: 1.6, align: 'left', arc: 0, colour: INK }, kit);
  } catch (error) {
    if (error instanceof WellmorphError) return null;
    throw error;
  }
  const made = needed(kit, 'drawings')(drawing.svg, Math.max(1, Math.min(widest, Math.round(drawing.width))));
  return { ...made, channels: 4, depth: 8 };
}

/** Lays a picture over a sheet of three channels, by its alpha where it has one. */
function lay(data: Uint8Array, width: number, p: Pixels, x: number, y: number): void {
  const full = p.depth === 16 ? 65535 : 255;
  const grey = p.channels < 3;
  for (let row = 0; row < p.height; row++)
    for (let column = 0; column < p.width; column++) {
      const from = p.channels * (row * p.width + column);
      const to = 3 * ((y + row) * width + x + column);
      const alpha = p.channels === 2 || p.channels === 4 ? p.data[from + p.channels - 1] / full : 1;
      for (let k = 0; k < 3; k++) {
        const own = (255 * p.data[from + (grey ? 0 : k)]) / full;
        data[to + k] = Math.round(data[to + k] + alpha * (own - data[to + k]));
      }
    }
}
