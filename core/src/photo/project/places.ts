import { spreadAt } from '../../gather/texels';
import { linearToSrgb } from '../../image/srgb';
import { solve } from '../least';
import type { ProjectJob } from './job';
import { Onlooker } from './onlooker';
import { texelOf } from './projector';

/** A place of the surface, and what the photographs show of it. */
export interface Place {
  part: number;
  triangle: number;
  /** Shares of its three corners. */
  at: readonly [number, number, number];
  /** Photographs that see it, a bit each. */
  seen: number;
  /** Pixels along a texel of the one that says most, 0 where none does. */
  pixels: number;
}

/** Places looked at, about. */
const PLACES = 24_000;

/** Places spread evenly over all parts, as many to each triangle as its area asks for. */
export function placesOver(job: ProjectJob, looks: Onlooker): Place[] {
  const whole = job.parts.reduce((n, p) => n + p.area.reduce((a, x) => a + x, 0), 0);
  const out: Place[] = [];
  let carry = 0.5;
  for (const [part, own] of job.parts.entries())
    for (let t = 0; t < own.area.length; t++) {
      carry += (PLACES * own.area[t]) / Math.max(whole, 1e-12);
      const texelMm = carry >= 1 ? texelOf(own, t, job.size) : 0;
      for (; carry >= 1; carry--) {
        const at = spreadAt(out.length);
        const [x, y, z, nx, ny, nz] = standing(job, { part, triangle: t, at });
        const seen = looks.visible(x, y, z, nx, ny, nz);
        const pixels = seen !== 0 && looks.read(seen, x, y, z, nx, ny, nz, texelMm) ? looks.pxPerMm * texelMm : 0;
        out.push({ part, triangle: t, at, seen, pixels });
      }
    }
  return out;
}

/** Where a place stands and which way its surface faces. */
export function standing({ parts }: ProjectJob, { part, triangle: t, at }: Pick<Place, 'part' | 'triangle' | 'at'>): number[] {
  const { corners: c, facing: f } = parts[part];
  return [
    ...[0, 1, 2].map((k) => at[0] * c[9 * t + k] + at[1] * c[9 * t + 3 + k] + at[2] * c[9 * t + 6 + k]),
    ...[0, 1, 2].map((k) => f[3 * t + k]),
  ];
}

/** How two photographs go together where both see the same. */
export interface Overlap {
  places: number;
  /** How far apart they are there, mean of the channel that is farthest, 255ths of sRGB: as taken, and with their gains. */
  before: number;
  after: number;
}

/** Fewer places than this say nothing of two photographs. */
const LEAST_PLACES = 20;
/** What is nearly black or burnt out says nothing of exposure. */
const [DARKEST, BRIGHTEST] = [0.004, 0.95];

/**
 * The gains that make photographs agree where several see the same: of any two the median of how many times brighter one is, and from those
 * the gain of each by least squares of their logarithms, the first one’s being 1 (Brown & Lowe 2007 do so for panoramas). Sets them in the
 * job.
 *
 * @returns what they come to, and the gains; null where none overlap
 */
export function matchExposures(job: ProjectJob, places: readonly Place[]): Overlap | null {
  const n = job.photos.length;
  const looks = new Onlooker(job);
  const colours: Float64Array[] = Array.from({ length: n }, () => new Float64Array(3));
  const ratios = new Map<number, number[]>();
  const both: { i: number; k: number; a: number[]; b: number[] }[] = [];
  for (const place of places) {
    if ((place.seen & (place.seen - 1)) === 0) continue;
    const [x, y, z, nx, ny, nz] = standing(job, place);
    const texelMm = texelOf(job.parts[place.part], place.triangle, job.size);
    if (!looks.read(place.seen, x, y, z, nx, ny, nz, texelMm)) continue;
    const seeing = job.photos.flatMap((_, i) => (looks.alone(i, colours[i], texelMm) ? [i] : []));
    for (const i of seeing)
      for (const k of seeing) {
        if (i >= k) continue;
        const [a, b] = [[...colours[i]], [...colours[k]]];
        both.push({ i, k, a, b });
        const [la, lb] = [luminance(a), luminance(b)];
        if (Math.min(la, lb) < DARKEST || Math.max(...a, ...b) > BRIGHTEST) continue;
        const key = i * n + k;
        const list = ratios.get(key) ?? [];
        list.push(Math.log(lb / la));
        ratios.set(key, list);
      }
  }
  // Least squares over pairs: gₖ − gᵢ = −median log(bₖ / aᵢ), as many times as they have places; g₀ = 0.
  const matrix = Array.from({ length: n }, () => new Array<number>(n).fill(0));
  const right = new Array<number>(n).fill(0);
  for (const [key, list] of ratios) {
    if (list.length < LEAST_PLACES) continue;
    const [i, k] = [Math.floor(key / n), key % n];
    const median = list.sort((a, b) => a - b)[list.length >> 1];
    matrix[i][i] += list.length;
    matrix[k][k] += list.length;
    matrix[i][k] -= list.length;
    matrix[k][i] -= list.length;
    right[k] -= list.length * median;
    right[i] += list.length * median;
  }
  // The first is taken as it is, and so is one that shares nothing with any other.
  for (let i = 0; i < n; i++) matrix[i][i] += i === 0 ? 1e9 : 1e-6;
  const gains = solve(matrix, right);
  if (gains) for (const [i, p] of job.photos.entries()) p.gain = Math.exp(gains[i]);
  if (both.length === 0) return null;
  let [before, after] = [0, 0];
  for (const { i, k, a, b } of both) {
    before += apart(a, b, 1, 1);
    after += apart(a, b, job.photos[i].gain, job.photos[k].gain);
  }
  return { places: both.length, before: before / both.length, after: after / both.length };
}

const luminance = ([r, g, b]: readonly number[]): number => 0.2126 * r + 0.7152 * g + 0.0722 * b;
const shown = (x: number): number => 255 * linearToSrgb(Math.min(1, x));
const apart = (a: readonly number[], b: readonly number[], ga: number, gb: number): number =>
  Math.max(...[0, 1, 2].map((k) => Math.abs(shown(ga * a[k]) - shown(gb * b[k]))));

/** Sets what each part gets where nothing of it is seen: the mean of what is; of the whole piece where nothing of it is. */
export function setPlain(job: ProjectJob, places: readonly Place[]): void {
  const looks = new Onlooker(job);
  const sums = job.parts.map(() => [0, 0, 0, 0]);
  for (const place of places) {
    if (place.seen === 0) continue;
    const [x, y, z, nx, ny, nz] = standing(job, place);
    if (!looks.read(place.seen, x, y, z, nx, ny, nz, texelOf(job.parts[place.part], place.triangle, job.size))) continue;
    for (const [k, v] of [looks.red, looks.green, looks.blue, 1].entries()) sums[place.part][k] += v;
  }
  const all = [0, 1, 2, 3].map((k) => sums.reduce((n, s) => n + s[k], 0));
  for (const [i, part] of job.parts.entries()) {
    const from = sums[i][3] > 0 ? sums[i] : all;
    if (from[3] > 0) part.plain = [from[0] / from[3], from[1] / from[3], from[2] / from[3]];
  }
}
