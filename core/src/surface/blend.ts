/**
 * Blend modes and compositing of W3C Compositing and Blending Level 1 (Recommendation candidate of 2024, §5 and §9–10), in
 * whatever space the values are in; CSS blends in sRGB. Values 0…1, colours not multiplied by their alpha.
 */
export type BlendMode =
  | 'normal'
  | 'multiply'
  | 'screen'
  | 'overlay'
  | 'darken'
  | 'lighten'
  | 'color-dodge'
  | 'color-burn'
  | 'hard-light'
  | 'soft-light'
  | 'difference'
  | 'exclusion';

export const BLENDS: Record<BlendMode, (backdrop: number, source: number) => number> = {
  normal: (_, s) => s,
  multiply: (b, s) => b * s,
  screen: (b, s) => b + s - b * s,
  overlay: (b, s) => hardLight(s, b),
  darken: Math.min,
  lighten: Math.max,
  'color-dodge': (b, s) => (b === 0 ? 0 : s === 1 ? 1 : Math.min(1, b / (1 - s))),
  'color-burn': (b, s) => (b === 1 ? 1 : s === 0 ? 0 : 1 - Math.min(1, (1 - b) / s)),
  'hard-light': hardLight,
  'soft-light': (b, s) => {
    if (s <= 0.5) return b - (1 - 2 * s) * b * (1 - b);
    const d = b <= 0.25 ? ((16 * b - 12) * b + 4) * b : Math.sqrt(b);
    return b + (2 * s - 1) * (d - b);
  },
  difference: (b, s) => Math.abs(b - s),
  exclusion: (b, s) => b + s - 2 * b * s,
};

function hardLight(b: number, s: number): number {
  return s <= 0.5 ? b * 2 * s : b + (2 * s - 1) - b * (2 * s - 1);
}

/** A colour with how much it covers, each 0 … 1, not multiplied in. */
export type Rgba = readonly [number, number, number, number];

/** Source over backdrop with a blend mode: co = αs·(1 − αb)·Cs + αs·αb·B(Cb, Cs) + (1 − αs)·αb·Cb, then divided by αo. */
export function composite(backdrop: Rgba, source: Rgba, mode: BlendMode): [number, number, number, number] {
  const [ab, as] = [backdrop[3], source[3]];
  const alpha = as + ab - as * ab;
  const blend = BLENDS[mode];
  const channel = (k: 0 | 1 | 2) =>
    alpha === 0 ? 0 : (as * (1 - ab) * source[k] + as * ab * blend(backdrop[k], source[k]) + (1 - as) * ab * backdrop[k]) / alpha;
  return [channel(0), channel(1), channel(2), alpha];
}
