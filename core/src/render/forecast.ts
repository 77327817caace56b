/** Noise measured after so many samples per pixel (both halves together), and the seconds they took. */
export interface Measured {
  samples: number;
  noise: number;
  seconds: number;
}

/** What a wanted noise will take. */
export interface Forecast {
  /** Samples per pixel for the wanted noise. */
  samples: number;
  /** Seconds from nothing to there. */
  seconds: number;
  /** The fit noise = a · samples^−b. */
  a: number;
  b: number;
}

/** Plain Monte Carlo has −½; scrambled Sobol does better where the light is smooth. */
const [LEAST_B, MOST_B] = [0.4, 0.85];
const B_PRIOR = 0.5;
/** How far the slope of a few doublings is believed: it is itself noisy, and most scenes end near the square root. */
const TRUST = 0.4;

/**
 * Fits noise = a·n^−b to what was measured, least squares in logarithms, later measurements counting more, held between the
 * exponents that occur and drawn towards Monte Carlo's own. With one measurement that is all there is.
 */
export function fitNoise(measured: readonly Measured[]): { a: number; b: number } {
  const points = measured.filter((m) => m.noise > 0 && m.samples > 0);
  if (points.length === 0) return { a: 0, b: B_PRIOR };
  const last = points[points.length - 1];
  let b = B_PRIOR;
  if (points.length > 1) {
    let [w, x, y, xx, xy] = [0, 0, 0, 0, 0];
    for (const p of points) {
      const weight = p.samples;
      const [lx, ly] = [Math.log(p.samples), Math.log(p.noise)];
      w += weight;
      x += weight * lx;
      y += weight * ly;
      xx += weight * lx * lx;
      xy += weight * lx * ly;
    }
    const down = w * xx - x * x;
    if (down > 1e-9) b = -(w * xy - x * y) / down;
  }
  b = B_PRIOR + TRUST * (Math.min(MOST_B, Math.max(LEAST_B, b)) - B_PRIOR);
  return { a: last.noise * last.samples ** b, b };
}

/** What a sample costs, s: by the last stretch, for the first samples pay for warming up. */
export function secondsASample(measured: readonly Measured[]): number {
  const [before, last] = [measured.at(-2), measured.at(-1)];
  if (!last) return 0;
  return before && last.samples > before.samples
    ? (last.seconds - before.seconds) / (last.samples - before.samples)
    : last.seconds / last.samples;
}

/** Samples and time for a wanted noise, from this scene's own measured noise and cost. */
export function forecast(measured: readonly Measured[], wanted: number): Forecast | null {
  const last = measured.at(-1);
  if (!last || !(last.noise > 0)) return null;
  const { a, b } = fitNoise(measured);
  const samples = Math.max(1, Math.ceil((a / wanted) ** (1 / b)));
  const each = secondsASample(measured);
  return { samples, seconds: Math.max(0, last.seconds + (samples - last.samples) * each), a, b };
}

/** Samples of each half after each pass: doubling, so that the picture and the forecast settle quickly. */
export function passesTo(samplesPerHalf: number): number[] {
  const out: number[] = [];
  for (let n = 1; n < samplesPerHalf; n *= 2) out.push(n);
  out.push(samplesPerHalf);
  return out;
}
