import type { Px } from './match';

/** A corner of a box: along each axis of the piece at its near (0) or far (1) end. */
export type Corner = readonly [0 | 1, 0 | 1, 0 | 1];

/** An edge drawn over a photograph, along an axis of the piece. */
export interface PhotoEdge {
  id: string;
  axis: 0 | 1 | 2;
  points: Px[];
}

/** A corner of the box as it appears in a photograph. */
export interface PhotoPin {
  corner: Corner;
  at: Px;
}

/** What the file says of the lens. */
export interface PhotoLens {
  focalMm?: number;
  /** The same on film 36 mm wide. */
  focal35Mm?: number;
  /** Pixels the picture had when it was taken, where that was written: it was cropped if it has others now. */
  takenPx?: Px;
}

/** A photograph of the piece and everything drawn over it. Px are of the picture upright, as it is shown. */
export interface Photo {
  id: string;
  name: string;
  blob: string;
  widthPx: number;
  heightPx: number;
  lens: PhotoLens;
  /** Width of the sensor, mm, where somebody said it: with the file’s focal length it gives the lens. */
  sensorMm?: number;
  /** The lens is taken from the file and the sensor, not from the edges. */
  lensHeld?: boolean;
  cropped?: boolean;
  bends?: boolean;
  edges: PhotoEdge[];
  pins: PhotoPin[];
  /** Whose box the corners are of; none before anything is modelled. */
  part?: string;
  /** The size of the box that is known, when its others are asked of the picture. */
  known?: { axis: 0 | 1 | 2; mm: number };
  /** Left out when the piece is projected on. */
  left?: boolean;
}

/** How photographs are laid on the piece. */
export interface ProjectChoices {
  /** The projected set goes out in place of materials. */
  on: boolean;
  size: number;
  /** What surfaces get that no photograph sees: the mean colour of their part, or what is seen across the middle of the piece. */
  blind: 'plain' | 'across-x' | 'across-z';
  /** Handed over as it was photographed, without light of its own; or as a colour that is lit once more. */
  unlit: boolean;
  /** Parts that are left as they are. */
  left: string[];
}

export const PROJECT_DEFAULTS: Omit<ProjectChoices, 'size'> = { on: false, blind: 'plain', unlit: true, left: [] };

/** Full frame is 36 mm wide (ISO 1007 film, 36 mm × 24 mm). */
const FULL_FRAME_MM = 36;

/**
 * The focal length that a file’s own words give, px of the picture as it is now, or null where they don’t say it. A focal length in mm says
 * nothing without the width of the sensor; one “on 35 mm film” is for the diagonal of the picture (CIPA DC-008, Exif 2.3, FocalLengthIn35mmFilm).
 */
export function focalFromFile(photo: Photo): number | null {
  const { lens, sensorMm, widthPx, heightPx } = photo;
  // Of another shape it was cut, and its pixels are still the lens’s; of the same it may have been made smaller.
  const [w, h] = (wasCropped(photo) && lens.takenPx) || [widthPx, heightPx];
  if (sensorMm && lens.focalMm) return (lens.focalMm / sensorMm) * Math.max(w, h);
  if (lens.focal35Mm) return (lens.focal35Mm / Math.hypot(FULL_FRAME_MM, (FULL_FRAME_MM * 2) / 3)) * Math.hypot(w, h);
  return null;
}

/** Whether the picture has other pixels than it was taken with: not only scaled, cut. Null where the file doesn’t say. */
export function wasCropped({ lens, widthPx, heightPx }: Photo): boolean | null {
  if (!lens.takenPx) return null;
  const [w, h] = [Math.max(...lens.takenPx), Math.min(...lens.takenPx)];
  const [u, v] = [Math.max(widthPx, heightPx), Math.min(widthPx, heightPx)];
  return Math.abs(w / h / (u / v) - 1) > 0.005;
}
