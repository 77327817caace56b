import { InputError } from '../errors';
import { millimetres } from '../units/lengths';

/** From where a picture shows the piece. Across and up are x and y from the front, −z and y from the side, x and −z from above. */
export type ReferenceView = 'front' | 'side' | 'top';
export const REFERENCE_VIEWS: Record<ReferenceView, string> = { front: 'front', side: 'side', top: 'above' };

/** A picture behind the piece, in true millimetres. */
export interface Reference {
  id: string;
  name: string;
  view: ReferenceView;
  /** The picture's blob, a PNG. */
  blob: string;
  widthPx: number;
  heightPx: number;
  mmPerPx: number;
  /** Where its lower left corner lies, mm across and up. */
  x: number;
  y: number;
  opacity: number;
}

type P = readonly [number, number];

/**
 * The scale of a picture from two places on it and how far apart they are.
 *
 * @param a in px, as the picture is stored
 * @returns mm per px
 * @throws InputError when the places are too near to measure by
 */
export function scaleBetween(a: P, b: P, distanceMm: number): number {
  const px = Math.hypot(a[0] - b[0], a[1] - b[1]);
  if (px < 2) throw new InputError('reference/near', 'The two places are less than two pixels apart; choose places farther apart.');
  if (!(distanceMm > 0)) throw new InputError('reference/distance', `A distance of ${millimetres(distanceMm)} gives no scale.`);
  return distanceMm / px;
}

/**
 * A picture re-scaled about a place on it, which stays where it is.
 *
 * @param fixed px from the left and from the top
 */
export function rescaled(r: Reference, mmPerPx: number, fixed: P): Reference {
  const up = r.heightPx - fixed[1];
  return { ...r, mmPerPx, x: r.x + fixed[0] * (r.mmPerPx - mmPerPx), y: r.y + up * (r.mmPerPx - mmPerPx) };
}

/** The axes a view shows: unit directions across, up and towards the eye. */
export function viewAxes(view: ReferenceView): Record<'across' | 'up' | 'eye', [number, number, number]> {
  if (view === 'front') return { across: [1, 0, 0], up: [0, 1, 0], eye: [0, 0, 1] };
  if (view === 'side') return { across: [0, 0, -1], up: [0, 1, 0], eye: [1, 0, 0] };
  return { across: [1, 0, 0], up: [0, 0, -1], eye: [0, 1, 0] };
}
