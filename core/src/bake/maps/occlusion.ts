import type { Pixels } from '../../image/png';
import { dilate } from '../dilate';
import type { Texels } from '../texels';

/** Ambient occlusion, linear: 255 is open, 0 shut in. Three equal channels, as viewers expect it in red. */
export function occlusionMap(texels: Texels): Pixels {
  const { size, state } = texels;
  const values = texels.occlusion.slice();
  dilate(
    values,
    1,
    state.map((s) => (s === 1 ? 1 : 0)),
    size,
  );
  const data = new Uint8Array(3 * size * size);
  for (let i = 0; i < size * size; i++) data.fill(Math.round(Math.min(1, Math.max(0, values[i])) * 255), 3 * i, 3 * i + 3);
  return { width: size, height: size, channels: 3, depth: 8, data };
}
