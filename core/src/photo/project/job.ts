import type { Binned } from '../../gather/bands';
import type { SourcePicture } from '../../gather/picture';
import type { RayTree } from '../../rays/tree';
import type { PhotoCamera } from '../camera';

/** A part as photographs are laid on it, where its first copy stands. Flat arrays only, so that workers can share it. */
export interface ProjectPart {
  id: string;
  /** Per triangle: 6 numbers of the layout, v up; 9 of its corners in the piece’s space, mm; 3 of the way it faces, unit. */
  uv: Float32Array;
  corners: Float32Array;
  facing: Float32Array;
  /** mm². */
  area: Float32Array;
  /** Of each triangle, how many pixels of the photograph that sees it best lie along a texel, at most. */
  finer: Float32Array;
  /** What is drawn where nothing is seen: the mean of what is, linear. */
  plain: [number, number, number];
}

/** A photograph as it is read: its camera, its pixels with smaller levels after them, and how much brighter it is taken. */
export interface ProjectPhoto {
  id: string;
  camera: PhotoCamera;
  levels: SourcePicture[];
  gain: number;
}

/** Everything that projecting needs, for all workers. */
export interface ProjectJob extends Binned {
  size: number;
  parts: ProjectPart[];
  photos: ProjectPhoto[];
  /** All that stands in the way, mm. */
  tree: RayTree;
  /** The way each triangle of it faces, 3 numbers, unit. */
  facingAll: Float32Array;
  /** Largest extent of the piece, mm. */
  extentMm: number;
  /** What is unseen is taken from across this plane: its axis and where it lies; null leaves it plain. */
  across: { axis: 0 | 2; at: number } | null;
}

/** What is drawn, in memory that workers can share. A texel each, top row first. */
export interface Projected {
  size: number;
  /** sRGB, 3 each. */
  colour: Uint8Array;
  /** Pixels of the photograph along a texel: 128 + 32 log₂ of them; 0 where nothing is seen. */
  pixels: Uint8Array;
  /** Degrees at which it is seen, from straight ahead. */
  degrees: Uint8Array;
  /** 0 unseen, 1 … the photograph that says most, 255 taken from across. */
  by: Uint8Array;
  /** 0 outside, 1 drawn to, 2 beside what is drawn to. */
  state: Uint8Array;
}

export function emptyProjected(size: number, allocate: (bytes: number) => ArrayBufferLike = (n) => new ArrayBuffer(n)): Projected {
  const plane = (each: number) => new Uint8Array(allocate(each * size * size));
  return { size, colour: plane(3), pixels: plane(1), degrees: plane(1), by: plane(1), state: plane(1) };
}

/** Photographs that can be laid on a piece at once: one bit each. */
export const MOST_PHOTOS = 8;
/** What {@link Projected.by} is where a texel was taken from across. */
export const ACROSS = 255;

/** Pixels along a texel as they are kept, and back. */
export const storedPixels = (px: number): number => Math.min(255, Math.max(1, Math.round(128 + 32 * Math.log2(Math.max(px, 1e-9)))));
export const pixelsOf = (stored: number): number => 2 ** ((stored - 128) / 32);
