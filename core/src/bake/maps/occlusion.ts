import type { Pixels } from '../../image/png';
import { dilate, ringsFound } from '../dilate';
import type { Texels } from '../texels';

/** Ambient occlusion, linear: 255 is open, 0 shut in. Three equal channels, as viewers expect it in red. */
export function occlusionMap(texels: Texels, rings = ringsFound(texels.state, texels.size)): Pixels {
  const { size } = texels;
  const values = texels.occlusion;
  dilate(values, 1, rings, 1);
  const data = new Uint8Array(3 * size * size);
  for (let i = 0, o = 0; i < size * size; i++) {
    const v = Math.round(Math.min(1, Math.max(0, values[i])) * 255);
    data[o++] = v;
    data[o++] = v;
    data[o++] = v;
  }
  return { width: size, height: size, channels: 3, depth: 8, data };
}
