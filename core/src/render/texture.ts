import { srgbToLinear } from '../image/srgb';
import type { Wrap } from '../surface/texturing';
import type { SceneTexture } from './scene';

const LINEAR = Float64Array.from({ length: 256 }, (_, i) => srgbToLinear(i / 255));

/** A place beyond the tile as one inside it, where texels aren’t simply repeated: kept half a texel from its border, across which they would be. */
function inside(x: number, wrap: Wrap, texels: number): number {
  if (wrap === 'repeat') return x;
  const half = 0.5 / texels;
  const within = wrap === 'clamp' ? x : Math.abs(x - 2 * Math.round(x / 2));
  return Math.min(1 - half, Math.max(half, within));
}

/** A texture at s, t (t up), between its texels. Colours come out linear. */
export function readTexture(texture: SceneTexture, s: number, t: number, colour: boolean, out: Float64Array): void {
  const { width, height, channels, data, wrap } = texture;
  if (wrap) {
    s = inside(s, wrap[0], width);
    t = inside(t, wrap[1], height);
  }
  const x = (s - Math.floor(s)) * width - 0.5;
  const y = (1 - (t - Math.floor(t))) * height - 0.5;
  const i = Math.floor(x);
  const j = Math.floor(y);
  const fx = x - i;
  const fy = y - j;
  const i0 = i < 0 ? i + width : i;
  const i1 = i + 1 >= width ? i + 1 - width : i + 1;
  const j0 = j < 0 ? j + height : j;
  const j1 = j + 1 >= height ? j + 1 - height : j + 1;
  const a = channels * (j0 * width + i0);
  const b = channels * (j0 * width + i1);
  const c = channels * (j1 * width + i0);
  const d = channels * (j1 * width + i1);
  const wa = (1 - fx) * (1 - fy);
  const wb = fx * (1 - fy);
  const wc = (1 - fx) * fy;
  const wd = fx * fy;
  for (let k = 0; k < 3; k++)
    out[k] = colour
      ? wa * LINEAR[data[a + k]] + wb * LINEAR[data[b + k]] + wc * LINEAR[data[c + k]] + wd * LINEAR[data[d + k]]
      : (wa * data[a + k] + wb * data[b + k] + wc * data[c + k] + wd * data[d + k]) / 255;
}
