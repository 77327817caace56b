import type { PrintPicture } from './pixels';

/** Pixels along a cell’s side, and cells round one that have to be clear with it. */
const CELL = 4;
const ROUND = 3;
/** Within so many pixels of a blank place nothing is drawn. */
export const CLEAR_ROUND = CELL * ROUND;

/** Where a level of a picture is clear, and clear for a way round. */
export interface Blank {
  /** @param u across, 0 … 1 from the left @param v down, 0 … 1 from the top; outside as at the nearest edge */
  at(u: number, v: number): boolean;
}

const known = new WeakMap<PrintPicture, (Blank | undefined)[]>();

/** Where nothing of a picture is drawn. Worked out once for a level. @param level 0 for the picture itself */
export function blankIn(picture: PrintPicture, level: number): Blank {
  const list = known.get(picture) ?? [];
  known.set(picture, list);
  list[level] ??= blankOf(level > 0 ? picture.levels[level - 1] : picture);
  return list[level];
}

function blankOf({ width, height, data }: { width: number; height: number; data: ArrayLike<number> }): Blank {
  const [w, h] = [Math.ceil(width / CELL), Math.ceil(height / CELL)];
  const inked = new Uint8Array(w * h);
  for (let y = 0, i = 3; y < height; y++) {
    const row = Math.floor(y / CELL) * w;
    for (let x = 0; x < width; x++, i += 4) if (data[i] > 0) inked[row + Math.floor(x / CELL)] = 1;
  }
  const near = wider(wider(inked, w, h, 1, w), h, w, w, 1);
  const within = (i: number, n: number) => (i < 0 ? 0 : i >= n ? n - 1 : i);
  return { at: (u, v) => near[within(Math.floor((v * height) / CELL), h) * w + within(Math.floor((u * width) / CELL), w)] === 0 };
}

/** What is marked within some cells along lines. @param along cells in a line @param lines how many @param step from one cell to the next @param next from one line to the next */
function wider(cells: Uint8Array, along: number, lines: number, step: number, next: number): Uint8Array {
  const out = new Uint8Array(cells.length);
  for (let l = 0; l < lines; l++)
    for (let i = 0; i < along; i++) {
      if (!cells[l * next + i * step]) continue;
      for (let k = Math.max(0, i - ROUND); k <= Math.min(along - 1, i + ROUND); k++) out[l * next + k * step] = 1;
    }
  return out;
}
