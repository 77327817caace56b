/**
 * Luminous efficacy used to turn watts into lumens, lm/W: that of light with equal power at every wavelength from 380 to
 * 780 nm, 683 · ∫V dλ / 400 nm with ∫V = 106.857 nm (CIE 1924, from memory). 683 lm/W holds only at 555 nm.
 */
export const EFFICACY = (683 * 106.857) / 400;

/** What a camera is set to. */
export interface Exposure {
  /** f-number. */
  aperture: number;
  seconds: number;
  iso: number;
}

/** Exposure value at ISO 100: log₂(100·N²/(t·S)). */
export const ev100 = ({ aperture, seconds, iso }: Exposure): number => Math.log2((100 * aperture * aperture) / (seconds * iso));

/** Luminance that just fills the picture, cd/m², saturation-based (ISO 12232): 1.2 · 2^EV. */
export const fullLuminance = (ev: number): number => 1.2 * 2 ** ev;

/** Radiance that just fills the picture, W/(m²·sr). `magnification` costs light in close-ups: (1 + m)². */
export const fullRadiance = (exposure: Exposure, magnification = 0): number =>
  (fullLuminance(ev100(exposure)) * (1 + magnification) ** 2) / EFFICACY;

/** f-stops between two amounts of light. */
export const stops = (ratio: number): number => Math.log2(ratio);
