/** How a picture's light becomes what a screen shows. */
export type Tone = 'linear' | 'neutral';
export const TONES: Record<Tone, string> = { linear: 'straight', neutral: 'PBR Neutral' };

/**
 * Khronos PBR Neutral tone mapper: base colours up to 0.8 stay what they are, highlights roll off towards white (Khronos
 * Group 2024, specification of the curve and its constants). Works in place on linear Rec. 709.
 */
export function pbrNeutral(c: Float64Array): void {
  const start = 0.8 - 0.04;
  const desaturation = 0.15;
  const x = Math.min(c[0], c[1], c[2]);
  const offset = x < 0.08 ? x - 6.25 * x * x : 0.04;
  c[0] -= offset;
  c[1] -= offset;
  c[2] -= offset;
  const peak = Math.max(c[0], c[1], c[2]);
  if (peak < start) return;
  const d = 1 - start;
  const newPeak = 1 - (d * d) / (peak + d - start);
  const k = newPeak / peak;
  const g = 1 - 1 / (desaturation * (peak - newPeak) + 1);
  for (let i = 0; i < 3; i++) c[i] = c[i] * k * (1 - g) + newPeak * g;
}

/** Applies a curve in place; values may leave above 1 only with the straight one. */
export function toneMap(c: Float64Array, tone: Tone): void {
  if (tone === 'neutral') pbrNeutral(c);
}
