import type { Pixels } from './png';
import { linearToSrgb, srgbToLinear } from './srgb';

/** What the numbers of a picture are, which says how they may be mixed. */
export type Content = 'colour' | 'data' | 'normal';

/**
 * A picture at a smaller size, every new pixel the mean of the area it stands for. Colours are mixed in linear light and by
 * their alpha, so that a clear pixel's colour doesn't bleed; normals are mixed as directions and made unit again.
 */
export function scaleDown(p: Pixels, width: number, height: number, content: Content): Pixels {
  const full = p.depth === 8 ? 255 : 65535;
  const out = p.depth === 8 ? new Uint8Array(width * height * p.channels) : new Uint16Array(width * height * p.channels);
  const decode = decoder(content, full);
  const alphaAt = p.channels === 4 ? 3 : p.channels === 2 ? 1 : -1;
  const colours = alphaAt < 0 ? p.channels : alphaAt;
  const [kx, ky] = [p.width / width, p.height / height];
  const sum = [0, 0, 0, 0];
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      sum.fill(0);
      let area = 0;
      let alphaSum = 0;
      for (let j = Math.floor(y * ky); j < Math.min(p.height, Math.ceil((y + 1) * ky - 1e-9)); j++) {
        const h = Math.min(j + 1, (y + 1) * ky) - Math.max(j, y * ky);
        for (let i = Math.floor(x * kx); i < Math.min(p.width, Math.ceil((x + 1) * kx - 1e-9)); i++) {
          const w = h * (Math.min(i + 1, (x + 1) * kx) - Math.max(i, x * kx));
          const o = p.channels * (j * p.width + i);
          const alpha = alphaAt < 0 ? 1 : p.data[o + alphaAt] / full;
          area += w;
          alphaSum += w * alpha;
          for (let c = 0; c < colours; c++) sum[c] += w * alpha * decode(p.data[o + c]);
        }
      }
      const o = p.channels * (y * width + x);
      if (alphaAt >= 0) out[o + alphaAt] = Math.round((alphaSum / area) * full);
      if (alphaSum === 0) continue;
      if (content === 'normal') {
        const l = Math.hypot(sum[0], sum[1], sum[2]) || 1;
        for (let c = 0; c < colours; c++) out[o + c] = Math.round(((c < 3 ? sum[c] / l : 1) * 0.5 + 0.5) * full);
      } else
        for (let c = 0; c < colours; c++) {
          const v = sum[c] / alphaSum;
          out[o + c] = Math.round(Math.min(1, content === 'colour' ? linearToSrgb(v) : v) * full);
        }
    }
  return { width, height, channels: p.channels, depth: p.depth, data: out };
}

function decoder(content: Content, full: number): (v: number) => number {
  if (content === 'normal') return (v) => (v / full) * 2 - 1;
  if (content === 'data') return (v) => v / full;
  const table = Float64Array.from({ length: full + 1 }, (_, i) => srgbToLinear(i / full));
  return (v) => table[v];
}
