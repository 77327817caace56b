import type { Allocate } from '../rays/tree';
import { PRIVATE } from '../rays/tree';
import { type Counts, noCounts } from './bands';
import type { FurtherMap } from './maps/further';

/** Raw result of the texel pass, top row first. What was not wanted has length 0. Where nothing was found there are zeros, or what maps carried there. */
export interface Texels {
  size: number;
  /** 3 per texel, tangent space, unit; zero where nothing was found. */
  normal: Float32Array;
  /** 0…1, one per texel. */
  occlusion: Float32Array;
  /** Curvature times the radius it is taken at, −1 (hollow) … 1 (edge), one per texel. */
  curvature: Float32Array;
  /** 3 per texel, part space, unit. */
  objectNormal: Float32Array;
  /** 3 per texel, tangent space, unit: the middle of the directions that are open. */
  bentNormal: Float32Array;
  /** mm, one per texel. */
  thickness: Float32Array;
  /** 3 per texel, mm, scene space. */
  position: Float32Array;
  /** How far the high surface lies above the low one along the direction of search, mm, one per texel. */
  height: Float32Array;
  /** Share of a texel’s samples that found the high surface. */
  opacity: Float32Array;
  /** Which of the legend’s entries a texel belongs to, counted from 1; 0 for none. */
  id: Uint16Array;
  /** 0 outside the islands, 1 covered, 2 covered but every ray missed. */
  state: Uint8Array;
  counts: Counts;
}

/** What a bake is to find out. */
export interface Wanted {
  size: number;
  pairs: readonly unknown[];
  wantOcclusion: boolean;
  /** 0: no curvature. */
  curvatureRadiusMm: number;
  further: readonly FurtherMap[];
}

/** Texels before anything was cast, in memory that workers can share. */
export function emptyTexels(
  { size, pairs, wantOcclusion, curvatureRadiusMm, further }: Wanted,
  allocate: Allocate | ((bytes: number) => ArrayBufferLike) = PRIVATE,
): Texels {
  const n = size * size;
  const floatsIf = (wanted: boolean, each: number) => new Float32Array(allocate(wanted ? 4 * each * n : 0));
  const floats = (each: number, map: FurtherMap) => floatsIf(further.includes(map), each);
  return {
    size,
    normal: floatsIf(true, 3),
    occlusion: floatsIf(wantOcclusion, 1),
    curvature: floatsIf(curvatureRadiusMm > 0, 1),
    objectNormal: floats(3, 'objectNormal'),
    bentNormal: floats(3, 'bentNormal'),
    thickness: floats(1, 'thickness'),
    position: floats(3, 'position'),
    height: floats(1, 'height'),
    opacity: floats(1, 'opacity'),
    id: new Uint16Array(allocate(further.includes('id') ? 2 * n : 0)),
    state: new Uint8Array(allocate(n)),
    counts: noCounts(pairs.length),
  };
}
