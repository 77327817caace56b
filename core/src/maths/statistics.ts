import { InputError } from '../errors';

/** Mean of some numbers; NaN of none. */
export const mean = (x: readonly number[]): number => x.reduce((s, v) => s + v, 0) / x.length;

/** Standard deviation of a sample, n − 1; 0 of fewer than two. */
export function deviation(x: readonly number[]): number {
  if (x.length < 2) return 0;
  const m = mean(x);
  return Math.sqrt(x.reduce((s, v) => s + (v - m) ** 2, 0) / (x.length - 1));
}

/**
 * A quantile by linear interpolation between order statistics: definition 7 of Hyndman & Fan, “Sample Quantiles in Statistical
 * Packages”, The American Statistician 50 (1996).
 *
 * @param p 0 … 1
 * @returns NaN of no numbers
 */
export function quantile(x: readonly number[], p: number): number {
  if (x.length === 0) return Number.NaN;
  const sorted = Float64Array.from(x).sort();
  const at = (sorted.length - 1) * p;
  const low = Math.floor(at);
  const high = Math.min(low + 1, sorted.length - 1);
  return sorted[low] + (at - low) * (sorted[high] - sorted[low]);
}

export const median = (x: readonly number[]): number => quantile(x, 0.5);

/** ln Γ(x), x > 0, by Lanczos’ sum of nine terms (g = 7); its coefficients are from memory, its values are checked. */
function logGamma(x: number): number {
  const c = [
    0.99999999999980993, 676.5203681218851, -1259.1392167224028, 771.32342877765313, -176.61502916214059, 12.507343278686905,
    -0.13857109526572012, 9.9843695780195716e-6, 1.5056327351493116e-7,
  ];
  const z = x - 1;
  const sum = c.reduce((s, v, i) => (i === 0 ? v : s + v / (z + i)), 0);
  const t = z + 7.5;
  return 0.5 * Math.log(2 * Math.PI) + (z + 0.5) * Math.log(t) - t + Math.log(sum);
}

/** The regularised incomplete beta function by its continued fraction, summed after Lentz. */
function incompleteBeta(x: number, a: number, b: number): number {
  if (x <= 0) return 0;
  if (x >= 1) return 1;
  // The fraction runs fast on this side of the mean only.
  if (x > (a + 1) / (a + b + 2)) return 1 - incompleteBeta(1 - x, b, a);
  const front = Math.exp(logGamma(a + b) - logGamma(a) - logGamma(b) + a * Math.log(x) + b * Math.log(1 - x)) / a;
  const tiny = 1e-300;
  const away = (v: number) => (Math.abs(v) < tiny ? tiny : v);
  let [f, c, d] = [1, 1, 0];
  for (let i = 0; i < 400; i++) {
    const m = i >> 1;
    const step =
      i === 0
        ? 1
        : i % 2 === 0
          ? (m * (b - m) * x) / ((a + 2 * m - 1) * (a + 2 * m))
          : -((a + m) * (a + b + m) * x) / ((a + 2 * m) * (a + 2 * m + 1));
    d = 1 / away(1 + step * d);
    c = away(1 + step / c);
    f *= c * d;
    if (Math.abs(1 - c * d) < 1e-15) break;
  }
  return front * (f - 1);
}

/** Share of Student’s t distribution below t. */
export function studentShare(t: number, degrees: number): number {
  const tail = incompleteBeta(degrees / (degrees + t * t), degrees / 2, 0.5) / 2;
  return t < 0 ? tail : 1 - tail;
}

/**
 * The value that a share p of Student’s t distribution lies below.
 *
 * @param degrees of freedom, ≥ 1
 */
export function studentQuantile(p: number, degrees: number): number {
  if (p === 0.5) return 0;
  if (p < 0.5) return -studentQuantile(1 - p, degrees);
  let [low, high] = [0, 2];
  while (studentShare(high, degrees) < p && high < 1e9) high *= 2;
  for (let i = 0; i < 200 && high - low > 1e-12 * high; i++) {
    const middle = (low + high) / 2;
    if (studentShare(middle, degrees) < p) low = middle;
    else high = middle;
  }
  return (low + high) / 2;
}

/** A straight line through points by least squares, and how sure it is. */
export interface Line {
  slope: number;
  intercept: number;
  /** Standard errors of both. */
  slopeError: number;
  interceptError: number;
  /** Standard deviation of what is left over, n − 2. */
  spread: number;
  /** Share of the variance that it explains. */
  r2: number;
  n: number;
  meanX: number;
  /** Σ (x − mean)². */
  sxx: number;
}

/**
 * The least-squares line y = slope · x + intercept.
 *
 * @throws InputError `statistics/few` for fewer than three points, `statistics/upright` where all stand at one x
 */
export function fitLine(x: readonly number[], y: readonly number[]): Line {
  const n = Math.min(x.length, y.length);
  if (n < 3) throw new InputError('statistics/few', 'A law needs three points or more.');
  const [meanX, meanY] = [mean(x), mean(y)];
  let [sxx, sxy, syy] = [0, 0, 0];
  for (let i = 0; i < n; i++) {
    const [dx, dy] = [x[i] - meanX, y[i] - meanY];
    sxx += dx * dx;
    sxy += dx * dy;
    syy += dy * dy;
  }
  if (!(sxx > 1e-24 * (1 + meanX * meanX)))
    throw new InputError('statistics/upright', 'All of these have the same setting, so no law can be seen in them.');
  const slope = sxy / sxx;
  const intercept = meanY - slope * meanX;
  let left = 0;
  for (let i = 0; i < n; i++) left += (y[i] - intercept - slope * x[i]) ** 2;
  const spread = Math.sqrt(left / (n - 2));
  return {
    slope,
    intercept,
    slopeError: spread / Math.sqrt(sxx),
    interceptError: spread * Math.sqrt(1 / n + (meanX * meanX) / sxx),
    spread,
    r2: syy > 0 ? 1 - left / syy : 1,
    n,
    meanX,
    sxx,
  };
}

/** Where the next point at x is expected, and how far to either side a share of them lies. */
export function nextPoint(line: Line, x: number, share = 0.8): { y: number; half: number } {
  const t = studentQuantile(0.5 + share / 2, line.n - 2);
  return {
    y: line.intercept + line.slope * x,
    half: t * line.spread * Math.sqrt(1 + 1 / line.n + (x - line.meanX) ** 2 / line.sxx),
  };
}
