import { nearestKnown } from '../../bake/spread';
import { InputError } from '../../errors';
import { attribute, type PolyMesh, triangleCount } from '../../mesh/polymesh';
import { texelsOfTriangle } from '../raster';
import type { Shift } from './places';

/** What lies round an island, to be asked while it is moved: texels of the others, and its own. */
export interface GapField {
  /** Cells along the tile, and how many texels of the texture each is wide: of large ones not every texel is drawn. */
  size: number;
  per: number;
  /** Texel → the nearest one of another island; −1 where there is no other. Rows from the top. */
  nearest: Int32Array;
  /** Middles of the island’s texels along its rim: x, y, shares of the tile, v up. */
  rim: Float64Array;
  /** Middles of its texels, or of every so many. */
  inner: Float64Array;
  every: number;
}

/** How an island would lie against the others. */
export interface Gaps {
  /** Fewest empty texels to another island, up to {@link FARTHEST}. */
  gap: number;
  /** Texels that another island has too. */
  overlap: number;
  /** It reaches out of the tile. */
  outside: boolean;
  /** Where fewer texels are empty than wanted: from the rim to the other island, x, y each, shares of the tile, v up. */
  close: Float64Array;
}

/** Gaps are measured up to this many texels. */
export const FARTHEST = 64;
/** Cells along the tile at most. */
const MOST_CELLS = 2048;
/** Texels of an island that are asked at most, and lines that are drawn. */
const MOST_INNER = 12_000;
const MOST_LINES = 160;

/**
 * Draws a layout, and the way from everywhere to the nearest texel of another island.
 *
 * @param parts with `uv` (corner) and `island` (face)
 * @param texels side of the texture, px
 * @throws InputError when the island isn’t there
 */
export function gapField(parts: readonly { id: string; mesh: PolyMesh }[], part: string, number: number, texels: number): GapField {
  const size = Math.min(texels, MOST_CELLS);
  const others = new Uint8Array(size * size);
  const own = new Uint8Array(size * size);
  let there = false;
  for (const { id, mesh } of parts) {
    const uv = attribute(mesh, 'uv', 'corner')?.data;
    const island = attribute(mesh, 'island', 'face')?.data;
    if (!uv || !island) continue;
    for (let t = 0; t < triangleCount(mesh); t++) {
      const mine = id === part && island[mesh.triangleFace[t]] === number;
      there ||= mine;
      const to = mine ? own : others;
      texelsOfTriangle(mesh, uv, t, size, (x, y) => {
        to[y * size + x] = 1;
      });
    }
  }
  if (!there) throw new InputError('hand/island', 'That island is not there any more; lay out again.');
  const [rim, inner]: [number[], number[]] = [[], []];
  const every = Math.max(1, Math.ceil(own.reduce((n, x) => n + x, 0) / MOST_INNER));
  let count = 0;
  for (let i = 0; i < own.length; i++) {
    if (!own[i]) continue;
    const [x, y] = [i % size, (i / size) | 0];
    const middle = [(x + 0.5) / size, 1 - (y + 0.5) / size];
    if (count++ % every === 0) inner.push(...middle);
    const open = (j: number, inside: boolean): boolean => !inside || !own[j];
    if (open(i - 1, x > 0) || open(i + 1, x < size - 1) || open(i - size, y > 0) || open(i + size, y < size - 1)) rim.push(...middle);
  }
  return {
    size,
    per: texels / size,
    nearest: nearestKnown(others, size),
    rim: Float64Array.from(rim),
    inner: Float64Array.from(inner),
    every,
  };
}

/**
 * How an island would lie if it were moved so: gaps along its rim, counted as texels between as the layout’s figures count them, and how much
 * of it lies on others. To a texel or two: it is drawn anew only when it is let go.
 *
 * @param wanted empty texels that there should be
 */
export function gapsAt(field: GapField, about: readonly [number, number], by: Shift, wanted: number): Gaps {
  const { size, per, nearest, rim, inner, every } = field;
  const [c, s] = [Math.cos(by.turn) * by.scale, Math.sin(by.turn) * by.scale];
  const moved = (list: Float64Array, i: number): [number, number] => {
    const [x, y] = [list[i] - about[0], list[i + 1] - about[1]];
    return [about[0] + c * x - s * y + by.x, about[1] + s * x + c * y + by.y];
  };
  let [gap, outside] = [FARTHEST, false];
  const close: number[] = [];
  for (let i = 0; i < rim.length; i += 2) {
    const [u, v] = moved(rim, i);
    outside ||= u < 0 || v < 0 || u > 1 || v > 1;
    const [x, y] = [Math.floor(u * size), Math.floor((1 - v) * size)];
    if (x < 0 || y < 0 || x >= size || y >= size) continue;
    const to = nearest[y * size + x];
    if (to < 0) continue;
    const [tx, ty] = [to % size, (to / size) | 0];
    const between = per * (Math.max(Math.abs(tx - x), Math.abs(ty - y)) - 1);
    gap = Math.min(gap, Math.max(0, between));
    if (between < wanted) close.push(u, v, (tx + 0.5) / size, 1 - (ty + 0.5) / size);
  }
  let overlap = 0;
  for (let i = 0; i < inner.length; i += 2) {
    const [u, v] = moved(inner, i);
    const [x, y] = [Math.floor(u * size), Math.floor((1 - v) * size)];
    if (x >= 0 && y >= 0 && x < size && y < size && nearest[y * size + x] === y * size + x) overlap += every * per * per;
  }
  const lines = close.length / 4;
  const step = Math.max(1, Math.ceil(lines / MOST_LINES));
  const drawn = step === 1 ? close : close.filter((_, i) => ((i / 4) | 0) % step === 0);
  return { gap, overlap, outside, close: Float64Array.from(drawn) };
}
