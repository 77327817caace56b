import type { Pixels } from '../../image/png';
import { dilate, ringsFound } from '../dilate';
import type { Texels } from '../texels';

/**
 * Tangent-space normal map. Each component n is stored as (n + 1)/2 of full scale; with Y down the green channel is
 * turned over, 255 − G.
 */
export function normalMap(texels: Texels, options: NormalOptions, rings = ringsFound(texels.state, texels.size)): Pixels {
  const values = texels.normal;
  dilate(values, 3, rings);
  return packNormals(values, texels.size, options);
}

/** How directions are stored. */
export interface NormalOptions {
  y: 'up' | 'down';
  bits: 8 | 16;
}

/** Directions as a picture. @param values 3 per texel; made unit, straight up where there is none */
export function packNormals(values: Float32Array, size: number, { y: up, bits }: NormalOptions): Pixels {
  const full = bits === 8 ? 255 : 65535;
  const data = bits === 8 ? new Uint8Array(3 * size * size) : new Uint16Array(3 * size * size);
  for (let i = 0; i < size * size; i++) {
    let [x, y, z] = [values[3 * i], values[3 * i + 1], values[3 * i + 2]];
    const l = Math.sqrt(x * x + y * y + z * z);
    if (l < 1e-6) [x, y, z] = [0, 0, 1];
    else [x, y, z] = [x / l, y / l, z / l];
    data[3 * i] = store(x, full);
    const green = store(y, full);
    data[3 * i + 1] = up === 'up' ? green : full - green;
    data[3 * i + 2] = store(z, full);
  }
  return { width: size, height: size, channels: 3, depth: bits, data };
}

/** Zero becomes 128 of 255 (32768 of 65535), as is usual. */
const store = (n: number, full: number): number => Math.min(full, Math.max(0, Math.round((n * 0.5 + 0.5) * full + 1e-4)));

/** Share of covered texels that lean more than `degrees` from flat. */
export function leaningShare(texels: Texels, degrees: number): number {
  const limit = Math.cos((degrees * Math.PI) / 180);
  let covered = 0;
  let leaning = 0;
  for (let i = 0; i < texels.state.length; i++) {
    if (texels.state[i] !== 1) continue;
    covered++;
    if (texels.normal[3 * i + 2] < limit) leaning++;
  }
  return covered > 0 ? leaning / covered : 0;
}
