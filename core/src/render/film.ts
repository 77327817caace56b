import { linearToSrgb, srgbToLinear } from '../image/srgb';
import type { Background } from '../light/rig';
import { type Tone, toneMap } from '../light/tone';
import { CHANNELS, type PathTracer } from './tracer';

/** Side of a tile, px; the unit that workers take. */
export const TILE = 32;

/**
 * Sums of samples, two halves of independent sequences side by side: per pixel and half {@link CHANNELS} numbers. Their
 * difference is the picture's noise.
 */
export interface Film {
  width: number;
  height: number;
  /** Samples in each half. */
  samples: number;
  sums: [Float32Array, Float32Array];
}

export const emptyFilm = (
  width: number,
  height: number,
  allocate: (bytes: number) => ArrayBufferLike = (n) => new ArrayBuffer(n),
): Film => ({
  width,
  height,
  samples: 0,
  sums: [new Float32Array(allocate(4 * CHANNELS * width * height)), new Float32Array(allocate(4 * CHANNELS * width * height))],
});

/** A rectangle of a picture, px, from its top left. */
export interface Tile {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** Tiles of a picture, from the middle outward, so that the piece shows first. */
export function tilesOf(width: number, height: number): Tile[] {
  const tiles: Tile[] = [];
  for (let y = 0; y < height; y += TILE)
    for (let x = 0; x < width; x += TILE) tiles.push({ x, y, width: Math.min(TILE, width - x), height: Math.min(TILE, height - y) });
  const far = (t: Tile) => Math.hypot(t.x + t.width / 2 - width / 2, t.y + t.height / 2 - height / 2);
  return tiles.sort((a, b) => far(a) - far(b));
}

/** One pass over a tile. */
export interface Pass {
  tile: Tile;
  /** Samples `from` … `to` of each half. */
  from: number;
  to: number;
  width: number;
  height: number;
  seed: number;
}

/**
 * Traces a pass of a tile into arrays of its own, so that a worker that dies leaves nothing half-added.
 * @returns the two halves, tile-sized
 */
export function traceTile(tracer: PathTracer, pass: Pass, cancelled: () => boolean = () => false): [Float32Array, Float32Array] {
  const { tile } = pass;
  const halves: [Float32Array, Float32Array] = [
    new Float32Array(CHANNELS * tile.width * tile.height),
    new Float32Array(CHANNELS * tile.width * tile.height),
  ];
  for (let y = 0; y < tile.height; y++) {
    if (cancelled()) break;
    for (let x = 0; x < tile.width; x++)
      for (let half = 0; half < 2; half++) {
        const sums = halves[half];
        const o = CHANNELS * (y * tile.width + x);
        for (let i = pass.from; i < pass.to; i++) {
          tracer.sample(tile.x + x, tile.y + y, pass.width, pass.height, i, 2 * pass.seed + half);
          for (let k = 0; k < CHANNELS; k++) sums[o + k] += tracer.out[k];
        }
      }
  }
  return halves;
}

/** Adds what was traced of a tile to a film. */
export function addTile(film: Film, tile: Tile, halves: readonly [Float32Array, Float32Array]): void {
  for (let half = 0; half < 2; half++)
    for (let y = 0; y < tile.height; y++) {
      const to = CHANNELS * ((tile.y + y) * film.width + tile.x);
      const from = CHANNELS * y * tile.width;
      const sums = film.sums[half];
      const own = halves[half];
      for (let k = 0; k < CHANNELS * tile.width; k++) sums[to + k] += own[from + k];
    }
}

/** How light becomes a picture. */
export interface Development {
  /** Radiance that fills the picture, W/(m²·sr). */
  full: number;
  tone: Tone;
  background: Background;
  /** sRGB of the ground where it is a colour. */
  colour: readonly number[];
  /** A picture that stands behind instead, sRGB, three bytes each, top row first. */
  behind?: { width: number; height: number; data: Uint8Array };
}

/** A developed picture, top row first. */
export interface Picture {
  width: number;
  height: number;
  /** RGBA, sRGB, alpha not multiplied in. */
  data: Uint8Array;
}

/** Which samples are developed: all of them, or one half. */
export type Which = 'all' | 0 | 1;

/**
 * One pixel's display values, 0…1 encoded, into `out` (r, g, b, a).
 *
 * The ground is apart from the light: paper is lit for real and adds nothing here; white, a colour and clear are set on the
 * screen as they are, darkened by the shadow's share of the light that would fall there.
 */
export function developPixel(
  film: Film,
  i: number,
  development: Development,
  which: Which,
  out: Float64Array,
  samples = film.samples,
): void {
  const n = which === 'all' ? 2 * samples : samples;
  const o = CHANNELS * i;
  const [a, b] = film.sums;
  const sum = (k: number) => (which === 'all' ? a[o + k] + b[o + k] : film.sums[which][o + k]) / Math.max(1, n);
  const { background, full, tone } = development;
  const shade = sum(7) > 0 ? Math.min(1, sum(6) / sum(7)) : 1;
  if (background === 'transparent') {
    const cover = Math.max(0, Math.min(1, 1 - (sum(3) + sum(4) + sum(5)) / 3));
    const alpha = cover + (1 - cover) * (1 - shade);
    for (let k = 0; k < 3; k++) out[k] = alpha > 0 ? sum(k) / full / alpha : 0;
    toneMap(out, tone);
    out[3] = alpha;
  } else {
    for (let k = 0; k < 3; k++) out[k] = sum(k) / full;
    toneMap(out, tone);
    const { behind } = development;
    const pixel = behind ? pixelBehind(film, i, behind) : -1;
    if (background !== 'paper')
      for (let k = 0; k < 3; k++) {
        const ground = behind
          ? srgbToLinear(behind.data[pixel + k] / 255)
          : background === 'white'
            ? 1
            : srgbToLinear(development.colour[k]);
        out[k] += sum(3 + k) * ground * shade;
      }
    out[3] = 1;
  }
  for (let k = 0; k < 3; k++) out[k] = linearToSrgb(Math.max(0, Math.min(1, out[k])));
}

/** Where the pixel that stands behind one of a film lies in its picture, which may have another size. */
function pixelBehind(film: Film, i: number, { width, height }: NonNullable<Development['behind']>): number {
  const x = Math.floor((((i % film.width) + 0.5) * width) / film.width);
  const y = Math.floor(((Math.floor(i / film.width) + 0.5) * height) / film.height);
  return 3 * (y * width + x);
}

/** A film as a picture, from the first so many samples of each half. */
export function develop(film: Film, development: Development, samples = film.samples): Picture {
  const data = new Uint8Array(4 * film.width * film.height);
  const out = new Float64Array(4);
  for (let i = 0; i < film.width * film.height; i++) {
    developPixel(film, i, development, 'all', out, samples);
    for (let k = 0; k < 4; k++) data[4 * i + k] = Math.round(out[k] * 255);
  }
  return { width: film.width, height: film.height, data };
}

/**
 * The picture's noise: RMS(A − B)/2 of the two halves as they are shown, which is the standard error of their mean. In
 * shares of full.
 */
export function noiseOf(film: Film, development: Development, samples = film.samples): number {
  const [a, b] = [new Float64Array(4), new Float64Array(4)];
  let sum = 0;
  const n = film.width * film.height;
  for (let i = 0; i < n; i++) {
    developPixel(film, i, development, 0, a, samples);
    developPixel(film, i, development, 1, b, samples);
    for (let k = 0; k < 3; k++) sum += (a[k] - b[k]) ** 2;
  }
  return Math.sqrt(sum / (3 * n)) / 2;
}

/** Share of the picture's light that was held back, see {@link PathTracer}. */
export function heldBackShare(film: Film): number {
  let [kept, held] = [0, 0];
  for (const sums of film.sums)
    for (let o = 0; o < sums.length; o += CHANNELS) {
      kept += sums[o] + sums[o + 1] + sums[o + 2];
      held += sums[o + 8];
    }
  return held / Math.max(1e-12, kept + held);
}

/** Share of pixels with all channels at their end. */
export function clippedShare(picture: Picture): number {
  let n = 0;
  for (let i = 0; i < picture.data.length; i += 4)
    if (picture.data[i] === 255 && picture.data[i + 1] === 255 && picture.data[i + 2] === 255 && picture.data[i + 3] > 0) n++;
  return n / (picture.width * picture.height);
}
