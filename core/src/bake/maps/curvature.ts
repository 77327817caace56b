import type { Pixels } from '../../image/png';
import { dilate } from '../dilate';
import type { Texels } from '../texels';

/** Signed curvature times its radius, linear: 128 is flat, above is convex, below hollow. One channel. */
export function curvatureMap(texels: Texels): Pixels {
  const { size, state } = texels;
  const values = texels.curvature.slice();
  dilate(
    values,
    1,
    state.map((s) => (s === 1 ? 1 : 0)),
    size,
  );
  const data = Uint8Array.from(values, (v) => 128 + Math.round(127 * Math.max(-1, Math.min(1, v))));
  return { width: size, height: size, channels: 1, depth: 8, data };
}
