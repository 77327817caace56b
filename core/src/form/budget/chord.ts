/**
 * Chord errors: how far n straight sides lie from the circle they stand for, and the inverse. From the definition of the
 * sagitta; asin of the half-angle form, because the acos form loses a side to rounding.
 */

/**
 * Corners on the circle: sides fall inside by r(1 − cos(φ/2n)), written as 2r·sin²(φ/4n), which loses no digits when n is
 * large. `angle` is the arc's, a full turn by default.
 */
export const inscribedError = (radius: number, n: number, angle = 2 * Math.PI): number => 2 * radius * Math.sin(angle / (4 * n)) ** 2;

/** Sides touch the circle: corners stand outside by r(1/cos(π/n) − 1). */
export const circumscribedError = (radius: number, n: number): number => radius * (1 / Math.cos(Math.PI / n) - 1);

/**
 * Corners a little outside, sides a little inside, by the same amount: r(1 − cos)/(1 + cos) = r·tan²(φ/4n), half the
 * inscribed error.
 */
export const balancedError = (radius: number, n: number, angle = 2 * Math.PI): number => radius * Math.tan(angle / (4 * n)) ** 2;

/** What the corners' radius is multiplied by so that the error is balanced: 2/(1 + cos(φ/2n)). */
export const balancedScale = (n: number, angle = 2 * Math.PI): number => 2 / (1 + Math.cos(angle / (2 * n)));

/** Sides needed so that the inscribed error is at most `error`. */
export function inscribedCount(radius: number, error: number, angle = 2 * Math.PI, minimum = 3): number {
  if (!(radius > 0) || error >= 2 * radius) return minimum;
  return Math.max(minimum, Math.ceil(angle / 2 / (2 * Math.asin(Math.sqrt(error / (2 * radius)))) - 1e-9));
}

/** Sides needed so that the balanced error is at most `error`. */
export function balancedCount(radius: number, error: number, minimum = 3, angle = 2 * Math.PI): number {
  if (!(radius > 0)) return minimum;
  return Math.max(minimum, Math.ceil(angle / (4 * Math.atan(Math.sqrt(error / radius))) - 1e-9));
}
