import { LINEAR } from '../gather/picture';
import { type Allocate, PRIVATE } from '../rays/tree';
import type { Cut } from './print';

/** A picture with its own alpha, four bytes a pixel, top row first, not multiplied by it. */
export interface CutPicture {
  width: number;
  height: number;
  data: Uint8Array;
}

/** A smaller picture: light times alpha, and alpha, sixteen bits each. */
interface Level {
  width: number;
  height: number;
  data: Uint16Array;
}

/** A picture ready to be printed: itself, and smaller levels, each half the one before. In memory that workers can share. */
export interface PrintPicture extends CutPicture {
  levels: Level[];
}

const FULL = 65_535;

/**
 * Levels of a picture, made in linear light and by alpha, so that what is transparent has no say in the colour beside it.
 *
 * @param allocate memory that workers share
 */
export function printPicture(picture: CutPicture, allocate: Allocate = PRIVATE): PrintPicture {
  const { width, height } = picture;
  // On one thread it is used as it is.
  const data = allocate === PRIVATE ? picture.data : new Uint8Array(allocate(4 * width * height));
  if (data !== picture.data) data.set(picture.data);
  const levels: Level[] = [];
  for (let w = width, h = height; w > 1 || h > 1; ) {
    [w, h] = [Math.max(1, Math.ceil(w / 2)), Math.max(1, Math.ceil(h / 2))];
    const level: Level = { width: w, height: h, data: new Uint16Array(allocate(8 * w * h)) };
    const below = levels[levels.length - 1];
    if (below) halveLevel(below, level);
    else halveBytes({ width, height, data }, level);
    levels.push(level);
  }
  return { width, height, data, levels };
}

/** Texels at an odd edge are used twice: a picture keeps its size. */
function halveBytes({ width, height, data }: CutPicture, out: Level): void {
  const unit = FULL / 1020;
  for (let y = 0, o = 0; y < out.height; y++) {
    const up = 2 * y * width;
    const down = Math.min(2 * y + 1, height - 1) * width;
    for (let x = 0; x < out.width; x++, o += 4) {
      const right = Math.min(2 * x + 1, width - 1);
      const a = 4 * (up + 2 * x);
      const b = 4 * (up + right);
      const c = 4 * (down + 2 * x);
      const d = 4 * (down + right);
      const [wa, wb, wc, wd] = [data[a + 3], data[b + 3], data[c + 3], data[d + 3]];
      for (let k = 0; k < 3; k++)
        out.data[o + k] =
          unit * (wa * LINEAR[data[a + k]] + wb * LINEAR[data[b + k]] + wc * LINEAR[data[c + k]] + wd * LINEAR[data[d + k]]) + 0.5;
      out.data[o + 3] = unit * (wa + wb + wc + wd) + 0.5;
    }
  }
}
function halveLevel({ width, height, data }: Level, out: Level): void {
  for (let y = 0, o = 0; y < out.height; y++) {
    const up = 2 * y * width;
    const down = Math.min(2 * y + 1, height - 1) * width;
    for (let x = 0; x < out.width; x++, o += 4) {
      const right = Math.min(2 * x + 1, width - 1);
      const a = 4 * (up + 2 * x);
      const b = 4 * (up + right);
      const c = 4 * (down + 2 * x);
      const d = 4 * (down + right);
      for (let k = 0; k < 4; k++) out.data[o + k] = (data[a + k] + data[b + k] + data[c + k] + data[d + k] + 2) >> 2;
    }
  }
}

/**
 * Adds what a picture has at a place, between its pixels: light times alpha, and alpha, 0 … 1 each. Outside there is nothing.
 *
 * @param level 0 for the picture itself @param u across, 0 … 1 from the left @param v down, 0 … 1 from the top
 */
export function addSample(picture: PrintPicture, level: number, u: number, v: number, out: Float64Array): void {
  if (u < 0 || u > 1 || v < 0 || v > 1) return;
  if (level > 0) addOfLevel(picture.levels[level - 1], u, v, out);
  else addOfBytes(picture, u, v, out);
}

// The four pixels round a place: where their numbers begin, and how much each counts.
const FROM = new Int32Array(4);
const SHARE = new Float64Array(4);
function around(width: number, height: number, u: number, v: number): void {
  const x = u * width - 0.5;
  const y = v * height - 0.5;
  const i = Math.floor(x);
  const j = Math.floor(y);
  const fx = x - i;
  const fy = y - j;
  const i0 = i < 0 ? 0 : i;
  const i1 = i + 1 >= width ? width - 1 : i + 1;
  const j0 = (j < 0 ? 0 : j) * width;
  const j1 = (j + 1 >= height ? height - 1 : j + 1) * width;
  FROM[0] = 4 * (j0 + i0);
  FROM[1] = 4 * (j0 + i1);
  FROM[2] = 4 * (j1 + i0);
  FROM[3] = 4 * (j1 + i1);
  SHARE[0] = (1 - fx) * (1 - fy);
  SHARE[1] = fx * (1 - fy);
  SHARE[2] = (1 - fx) * fy;
  SHARE[3] = fx * fy;
}

// One for each kind of numbers, channel by channel: it is most of what printing takes.
function addOfLevel({ width, height, data }: Level, u: number, v: number, out: Float64Array): void {
  around(width, height, u, v);
  const a = FROM[0];
  const b = FROM[1];
  const c = FROM[2];
  const d = FROM[3];
  const wa = SHARE[0];
  const wb = SHARE[1];
  const wc = SHARE[2];
  const wd = SHARE[3];
  out[0] += (wa * data[a] + wb * data[b] + wc * data[c] + wd * data[d]) / FULL;
  out[1] += (wa * data[a + 1] + wb * data[b + 1] + wc * data[c + 1] + wd * data[d + 1]) / FULL;
  out[2] += (wa * data[a + 2] + wb * data[b + 2] + wc * data[c + 2] + wd * data[d + 2]) / FULL;
  out[3] += (wa * data[a + 3] + wb * data[b + 3] + wc * data[c + 3] + wd * data[d + 3]) / FULL;
}
function addOfBytes({ width, height, data }: CutPicture, u: number, v: number, out: Float64Array): void {
  around(width, height, u, v);
  const a = FROM[0];
  const b = FROM[1];
  const c = FROM[2];
  const d = FROM[3];
  const wa = (SHARE[0] * data[a + 3]) / 255;
  const wb = (SHARE[1] * data[b + 3]) / 255;
  const wc = (SHARE[2] * data[c + 3]) / 255;
  const wd = (SHARE[3] * data[d + 3]) / 255;
  out[0] += wa * LINEAR[data[a]] + wb * LINEAR[data[b]] + wc * LINEAR[data[c]] + wd * LINEAR[data[d]];
  out[1] += wa * LINEAR[data[a + 1]] + wb * LINEAR[data[b + 1]] + wc * LINEAR[data[c + 1]] + wd * LINEAR[data[d + 1]];
  out[2] += wa * LINEAR[data[a + 2]] + wb * LINEAR[data[b + 2]] + wc * LINEAR[data[c + 2]] + wd * LINEAR[data[d + 2]];
  out[3] += wa + wb + wc + wd;
}

/** Whether anything of a picture lets through what lies below it. */
export function hasAlpha({ data }: CutPicture): boolean {
  for (let i = 3; i < data.length; i += 4) if (data[i] < 255) return true;
  return false;
}

/**
 * A picture without what isn’t to be printed: what is white (or black) becomes clear by as much as it is white, and what is left gets the
 * colour that comes to the same over it; or all that is of one colour, within a reach of 255, with an edge as wide again.
 */
export function cutOut(picture: CutPicture, cut: Cut): CutPicture {
  const data = picture.data.slice();
  for (let i = 0; i < data.length; i += 4) {
    const [r, g, b] = [data[i], data[i + 1], data[i + 2]];
    let alpha: number;
    if (cut === 'white' || cut === 'black') {
      const ground = cut === 'white' ? 255 : 0;
      alpha = (cut === 'white' ? 255 - Math.min(r, g, b) : Math.max(r, g, b)) / 255;
      if (alpha > 0) for (let k = 0; k < 3; k++) data[i + k] = Math.round(ground + (data[i + k] - ground) / alpha);
    } else {
      const d = Math.max(...cut.colour.map((c, k) => Math.abs(255 * c - data[i + k])));
      const reach = Math.max(1, cut.reach);
      alpha = Math.min(1, Math.max(0, d / reach - 1));
    }
    data[i + 3] = Math.round(alpha * data[i + 3]);
  }
  return { ...picture, data };
}

/** A picture set upright, whose rows lie as an Exif orientation says, 1 to 8: from 5 on its sides change places. */
export function upright(picture: CutPicture, orientation: number): CutPicture {
  if (orientation <= 1) return picture;
  const { width, height, data } = picture;
  const lies = orientation >= 5;
  const [w, h] = lies ? [height, width] : [width, height];
  const from = new Uint32Array(data.buffer.slice(data.byteOffset, data.byteOffset + data.byteLength));
  const out = new Uint32Array(w * h);
  for (let y = 0, o = 0; y < h; y++)
    for (let x = 0; x < w; x++, o++) {
      const [a, b] = lies ? [y, x] : [x, y];
      // Of 2, 3, 7 and 8 the columns run the other way, of 3, 4, 6 and 7 the rows.
      const column = orientation === 2 || orientation === 3 || orientation === 7 || orientation === 8 ? width - 1 - a : a;
      const row = orientation === 3 || orientation === 4 || orientation === 6 || orientation === 7 ? height - 1 - b : b;
      out[o] = from[row * width + column];
    }
  return { width: w, height: h, data: new Uint8Array(out.buffer) };
}

/** Level of a picture whose pixels are as far apart as so many of its own, or a little less. */
export const levelOf = (picture: PrintPicture, apart: number): number =>
  Math.max(0, Math.min(picture.levels.length, Math.floor(Math.log2(Math.max(apart, 1e-9)))));
