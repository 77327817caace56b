import { srgbToLinear } from '../image/srgb';
import type { ComposedSet } from './compose';
import type { Ground } from './ground';
import { isClearOrGlowing, type Material } from './material';

/** Limits of what real surfaces reflect, as sRGB bytes of luminance; common practice, no source. */
export const DIELECTRIC_RANGE = [30, 240] as const;
export const METAL_LEAST = 180;

/** What is wrong with a texel. */
export const VERDICTS = [
  'outside',
  'sound',
  'too dark',
  'too bright',
  'metal too dark',
  'half metal',
  'mirror on a worn part',
  'not judged',
] as const;
/** What can be said of a texel. */
export type Verdict = (typeof VERDICTS)[number];

/** Every texel of a set judged. */
export interface Validity {
  /** Index into {@link VERDICTS}, one per texel. */
  verdict: Uint8Array;
  /** Share of judged texels under each verdict. */
  shares: Record<Verdict, number>;
}

const LINEAR = Float64Array.from({ length: 256 }, (_, i) => srgbToLinear(i / 255));
const luminanceOf = (r: number, g: number, b: number): number => 0.2126 * LINEAR[r] + 0.7152 * LINEAR[g] + 0.0722 * LINEAR[b];

/**
 * Judges every texel of a set by what real materials do: dielectrics reflect neither nothing nor everything, metals reflect
 * much, nothing is half a metal except where one blends into the other, and what is worn isn't a perfect mirror.
 * Transparent and glowing materials are exempt: their base colour means something else.
 */
export function validity(set: ComposedSet, ground: Ground, materials: readonly Material[]): Validity {
  const { size } = set;
  const verdict = new Uint8Array(size * size);
  const counts = new Array<number>(VERDICTS.length).fill(0);
  const [dark, bright] = DIELECTRIC_RANGE.map((b) => srgbToLinear(b / 255));
  const metalDark = srgbToLinear(METAL_LEAST / 255);
  for (let i = 0; i < verdict.length; i++) {
    const m = materials[ground.owner[i] - 1];
    if (!m) continue;
    const o = 3 * i;
    let v = 1;
    if (isClearOrGlowing(m)) v = 7;
    else {
      const l = luminanceOf(set.baseColour[o], set.baseColour[o + 1], set.baseColour[o + 2]);
      const metallic = set.orm[o + 2];
      if (metallic > 25 && metallic < 230) v = blended(set, ground, i) ? 1 : 5;
      else if (metallic >= 230) v = l < metalDark - 2e-3 ? (partly(m) ? 1 : 4) : 1;
      else if (l < dark - 2e-4) v = 2;
      else if (l > bright + 4e-3) v = 3;
      if (v === 1 && set.orm[o + 1] === 0 && isWorn(m)) v = 6;
    }
    verdict[i] = v;
    counts[v]++;
  }
  const judged = counts.reduce((n, c, k) => n + (k > 0 && k < 7 ? c : 0), 0);
  const shares = Object.fromEntries(VERDICTS.map((name, k) => [name, k > 0 && k < 7 ? counts[k] / Math.max(1, judged) : 0])) as Record<
    Verdict,
    number
  >;
  return { verdict, shares };

  /** A metal whose own colour is sound is darkened only by what lies over it. */
  function partly(m: Material): boolean {
    return luminance(m.colour) >= metalDark - 2e-3 && m.layers.some((l) => l.on && l.look.colour && l.look.metallic === 0);
  }
}

/** Whether anything of it is rubbed. */
const isWorn = (m: Material): boolean =>
  m.layers.some((l) => l.on && l.mask.some(({ field: f }) => f.kind === 'edges' || (f.kind === 'worn' && f.share > 0)));

const luminance = (c: readonly number[]): number => 0.2126 * srgbToLinear(c[0]) + 0.7152 * srgbToLinear(c[1]) + 0.0722 * srgbToLinear(c[2]);

/** How far a blend from metal to something else may reach, texels. */
const BLEND_REACH = 10;
const AROUND = [1, 0, -1, 0, 0, 1, 0, -1, 1, 1, -1, -1, 1, -1, -1, 1];

/** Whether a texel lies on the way from metal to something else: one of them is near. */
function blended(set: ComposedSet, ground: Ground, i: number): boolean {
  const { size } = set;
  const x0 = i % size;
  const y0 = (i / size) | 0;
  const own = ground.owner[i];
  for (let d = 1; d <= BLEND_REACH; d++)
    for (let k = 0; k < AROUND.length; k += 2) {
      const x = x0 + d * AROUND[k];
      const y = y0 + d * AROUND[k + 1];
      if (x < 0 || y < 0 || x >= size || y >= size || ground.owner[y * size + x] !== own) continue;
      const m = set.orm[3 * (y * size + x) + 2];
      if (m <= 25 || m >= 230) return true;
    }
  return false;
}

/** Numbers from the verdict map to colours: paper for sound, the palette's own for what isn't. RGB bytes. */
export const VERDICT_COLOURS: Record<Verdict, [number, number, number]> = {
  outside: [244, 240, 230],
  sound: [221, 235, 230],
  'too dark': [27, 42, 51],
  'too bright': [255, 255, 255],
  'metal too dark': [178, 52, 64],
  'half metal': [162, 101, 10],
  'mirror on a worn part': [56, 88, 138],
  'not judged': [217, 209, 191],
};
