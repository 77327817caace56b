import type { Texels } from './texels';

/** Cosines: a texel turns away from both beside it by more than 30°, and those face the same way to within 15°. */
const TURNS = Math.cos((30 * Math.PI) / 180);
const ALIKE = Math.cos((15 * Math.PI) / 180);

/**
 * Share of texels on details that are one texel wide in a row or a column: finer than two, no filter can draw them, and they flicker at
 * a distance (the sampling theorem; Shannon 1949).
 */
export function narrowShare({ size, normal, state }: Pick<Texels, 'size' | 'normal' | 'state'>): number {
  const dot = (a: number, b: number) =>
    normal[3 * a] * normal[3 * b] + normal[3 * a + 1] * normal[3 * b + 1] + normal[3 * a + 2] * normal[3 * b + 2];
  let [found, narrow] = [0, 0];
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++) {
      const i = y * size + x;
      if (state[i] !== 1) continue;
      found++;
      const stands = (a: number, b: number) =>
        state[a] === 1 && state[b] === 1 && dot(i, a) < TURNS && dot(i, b) < TURNS && dot(a, b) > ALIKE;
      if ((x > 0 && x < size - 1 && stands(i - 1, i + 1)) || (y > 0 && y < size - 1 && stands(i - size, i + size))) narrow++;
    }
  return found > 0 ? narrow / found : 0;
}

/** Per texel, in steps of an 8-bit map: slower than a step in eight texels shows as bands, slower than one in 512 as nothing. */
const BROAD = 1 / 8;
const STILL = 1 / 512;

/** Share of texels whose normals change so slowly, and do change, that 8 bits draw them in steps of eight texels and more. */
export function bandedShare({ size, normal, state }: Pick<Texels, 'size' | 'normal' | 'state'>): number {
  /** The most that a component changes from one texel to another two steps on, for each of these, in steps of an 8-bit map. */
  const change = (a: number, b: number) =>
    63.75 * Math.max(Math.abs(normal[3 * a] - normal[3 * b]), Math.abs(normal[3 * a + 1] - normal[3 * b + 1]));
  let [found, banded] = [0, 0];
  for (let y = 1; y < size - 1; y++)
    for (let x = 1; x < size - 1; x++) {
      const i = y * size + x;
      if (state[i] !== 1) continue;
      found++;
      if (state[i - 1] !== 1 || state[i + 1] !== 1 || state[i - size] !== 1 || state[i + size] !== 1) continue;
      const most = Math.max(change(i - 1, i + 1), change(i - size, i + size));
      if (most > STILL && most < BROAD) banded++;
    }
  return found > 0 ? banded / found : 0;
}

/**
 * How far occlusion is off by chance, at most: the standard error of a share that so many rays found, its root mean square over all texels.
 * Rays that are spread evenly, as these are, come closer.
 */
export function occlusionNoise({ occlusion, state }: Pick<Texels, 'occlusion' | 'state'>, rays: number): number {
  let [sum, n] = [0, 0];
  for (let i = 0; i < state.length; i++) {
    if (state[i] !== 1) continue;
    sum += occlusion[i] * (1 - occlusion[i]);
    n++;
  }
  return n > 0 && rays > 0 ? Math.sqrt(sum / n / rays) : 0;
}
