import type { LengthUnit } from '../units/lengths';
import type { Family } from './family';

/** Who sees the piece and how close. */
export type Purpose = 'game' | 'product' | 'closeup' | 'own';
export const PURPOSES: Record<Purpose, string> = { game: 'game prop', product: 'product picture', closeup: 'close-up', own: 'own figures' };

/** Where the piece's own origin is wanted. */
export type Origin = 'any' | 'foot' | 'middle';
export const ORIGINS: Record<Origin, string> = { any: 'anywhere', foot: 'under its middle', middle: 'in its middle' };

/** What a piece may take at most. */
export interface Limits {
  triangles: number;
  /** Side of the texture, px. */
  textureSize: number;
  textureSets: number;
  /** All textures with their levels, MB (10⁶ bytes). */
  memoryMB: number;
}

/** What a piece is for, how large it is and how close it is seen. */
export interface Brief {
  purpose: Purpose;
  /** Wanted real size, mm: x, y, z. */
  sizeMm: [number, number, number];
  /** From the lens to the nearest point of the piece, mm. */
  closestMm: number;
  pictureHeightPx: number;
  lensMm: number;
  /** Height of the picture in the camera, mm. */
  sensorHeightMm: number;
  /** Largest error of the outline that may show, px. */
  errorPx: number;
  limits: Limits;
  /** Where the origin is wanted; anywhere when absent. */
  origin?: Origin;
  /** Walls at least this thick, mm; not asked for when absent or 0. */
  wallMm?: number;
  /** Terms it shares with other pieces; none when absent or null. */
  family?: Family | null;
  /** ISO date, or null. */
  deadline: string | null;
  /** The unit lengths are shown in; mm when absent. Files and figures for machines stay in mm. */
  unit?: LengthUnit;
  /** Figures a person set against the advice. */
  overrides: { densityPxPerCm?: number; toleranceMm?: number };
}

/** Defaults by purpose; lens lengths and picture sizes are common practice, no source. */
export function briefFor(purpose: Purpose): Brief {
  const base = { purpose, sizeMm: [100, 100, 100] as [number, number, number], sensorHeightMm: 24, deadline: null, overrides: {} };
  switch (purpose) {
    case 'product':
      return {
        ...base,
        closestMm: 900,
        pictureHeightPx: 1080,
        lensMm: 90,
        errorPx: 0.35,
        limits: { triangles: 60000, textureSize: 4096, textureSets: 1, memoryMB: 360 },
      };
    case 'closeup':
      return {
        ...base,
        closestMm: 300,
        pictureHeightPx: 1080,
        lensMm: 90,
        errorPx: 0.35,
        limits: { triangles: 120000, textureSize: 4096, textureSets: 2, memoryMB: 720 },
      };
    default:
      return {
        ...base,
        closestMm: 600,
        pictureHeightPx: 1080,
        lensMm: 35,
        errorPx: 1,
        limits: { triangles: 5000, textureSize: 1024, textureSets: 1, memoryMB: 24 },
      };
  }
}
