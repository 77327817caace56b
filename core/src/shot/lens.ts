/** Thin-lens optics of a shot. Lengths in mm. Formulas of any handbook of photography, written out in each comment. */

/** m = f/(s − f): size on the sensor over size at distance s. */
export const magnification = (f: number, s: number): number => f / (s - f);
/** H = f²/(N·c) + f: focused here, everything from H/2 on is sharp to the circle c. */
export const hyperfocal = (f: number, n: number, c: number): number => (f * f) / (n * c) + f;

/** Distances from the lens between which everything is sharp, mm. */
export interface FocusRange {
  near: number;
  /** Infinity from the hyperfocal distance on. */
  far: number;
}

/** near = s(H − f)/(H + s − 2f), far = s(H − f)/(H − s). */
export function depthOfField(f: number, n: number, c: number, s: number): FocusRange {
  const h = hyperfocal(f, n, c);
  return { near: (s * (h - f)) / (h + s - 2 * f), far: s >= h ? Infinity : (s * (h - f)) / (h - s) };
}

/** Focus that spreads the sharpness between two distances: s = 2·Dn·Df/(Dn + Df). */
export const focusBetween = (near: number, far: number): number => (2 * near * far) / (near + far);
/** The f-number that makes it just reach: N = f²(Df − Dn)/(c(s − f)(Df + Dn)), the far limit's exact form for thin lenses. */
export function apertureFor(f: number, c: number, near: number, far: number): number {
  const s = focusBetween(near, far);
  return (f * f * (far - near)) / (c * (s - f) * (far + near));
}

/** Diameter on the sensor of a point at distance d when focused at s: f²/N · |d − s|/(d(s − f)). */
export const blurDisc = (f: number, n: number, s: number, d: number): number => ((f * f) / n) * (Math.abs(d - s) / (d * (s - f)));

/** Angle across `size` of the sensor when focused at s, radians. */
export const fieldOfView = (size: number, f: number, s: number): number => 2 * Math.atan((size * (s - f)) / (2 * f * s));

/** f-numbers that lens rings carry, a third of a stop apart would be finer; whole stops are common practice, no source. */
export const F_STOPS = [1.4, 2, 2.8, 4, 5.6, 8, 11, 16, 22, 32, 45, 64] as const;
