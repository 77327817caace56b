import type { Pixels } from '../../image/png';
import { dilate, ringsFound } from '../dilate';
import type { Texels } from '../texels';

/** Signed curvature times its radius, linear: 128 is flat, above is convex, below hollow. One channel. */
export function curvatureMap(texels: Texels, rings = ringsFound(texels.state, texels.size)): Pixels {
  const { size } = texels;
  const values = texels.curvature;
  dilate(values, 1, rings);
  const data = new Uint8Array(values.length);
  for (let i = 0; i < data.length; i++) data[i] = 128 + Math.round(127 * Math.max(-1, Math.min(1, values[i])));
  return { width: size, height: size, channels: 1, depth: 8, data };
}
