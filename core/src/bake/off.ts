import { colourAt, gradientOf, NOTHING, type Stops } from '../image/gradient';
import type { Pixels } from '../image/png';

/** Degrees to a step in which it is kept how far a texel is off; 254 of them are as far as it goes. */
export const STEP = 0.25;

/** Degrees off as colours: pale is what needs no look. Places on the scale, and what is drawn there. */
const STOPS: Stops = [
  [0, [239, 235, 221]],
  [4, [230, 196, 142]],
  [12, [208, 128, 63]],
  [30, [178, 52, 64]],
];
/** Where the scale ends, degrees. */
export const OFF_MOST = STOPS[STOPS.length - 1][0];
/** The scale as a CSS gradient. */
export const OFF_GRADIENT = gradientOf(STOPS);

/**
 * How far every texel is off, as a picture.
 *
 * @param off steps of {@link STEP} degrees from 1, 0 where nothing was judged; a texel each, top row first
 */
export function offPicture(off: Uint8Array, size: number): Pixels {
  const colours = Array.from({ length: 256 }, (_, i) => (i === 0 ? NOTHING : colourAt(STOPS, (i - 1) * STEP)));
  const data = new Uint8Array(3 * size * size);
  for (let i = 0; i < off.length; i++) data.set(colours[off[i]], 3 * i);
  return { width: size, height: size, channels: 3, depth: 8, data };
}
