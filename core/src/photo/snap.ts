/** Light along an edge that was drawn by hand: the edge runs along the middle row, from the left end to the right; 0 … 255. */
export interface Strip {
  width: number;
  height: number;
  grey: ArrayLike<number>;
}

/** Where the picture’s own edge runs in a strip: rows below its middle at the left end and at the right one. */
export interface Snapped {
  from: number;
  to: number;
  /** Share of its length along which an edge was found there. */
  share: number;
  /** Spread of those places about the line, px. */
  rmsPx: number;
}

/** Places along the edge at which it is looked for. */
const PLACES = 96;
/** An edge that is found along less of its length than this is somebody’s shadow. */
const LEAST_SHARE = 0.4;
/** Slopes weaker than this, of 255 a row, are noise. */
const LEAST_SLOPE = 1.5;

/**
 * Finds the line along which light changes most across a strip: every pair of ends is tried by the slopes summed along it (as Hough 1962
 * does for lines), with one sign, because a single edge has its bright side on one side all along; then a line through the places of
 * steepest slope beside it, each between rows by a parabola, by least squares with outliers left out.
 *
 * @returns null where nothing runs along it
 */
export function snapStrip({ width, height, grey }: Strip): Snapped | null {
  const reach = Math.floor(height / 2);
  const n = Math.max(2, Math.min(PLACES, Math.floor(width / 2)));
  const slopes = Array.from({ length: n }, (_, i) =>
    slopesAt(Math.floor((i * width) / n), Math.max(1, Math.floor(((i + 1) * width) / n) - Math.floor((i * width) / n))),
  );
  function slopesAt(x0: number, columns: number): Float64Array {
    const mean = new Float64Array(height);
    for (let y = 0; y < height; y++) {
      for (let x = x0; x < x0 + columns; x++) mean[y] += grey[y * width + x];
      mean[y] /= columns;
    }
    // The slope of a parabola through five rows (Savitzky & Golay 1964).
    const out = new Float64Array(height);
    for (let y = 2; y < height - 2; y++) out[y] = (2 * (mean[y + 2] - mean[y - 2]) + mean[y + 1] - mean[y - 1]) / 10;
    return out;
  }
  const middle = (height - 1) / 2;
  const at = (i: number) => (i + 0.5) / n;
  let best = { score: 0, sum: 0, from: 0, to: 0 };
  for (let a = -reach; a <= reach; a++)
    for (let b = -reach; b <= reach; b++) {
      let sum = 0;
      for (let i = 0; i < n; i++) sum += slopes[i][Math.round(middle + a + (b - a) * at(i))] ?? 0;
      // Of two as clear the one nearer to what was drawn.
      const score = Math.abs(sum) * (1 - (0.25 * (Math.abs(a) + Math.abs(b))) / (2 * reach + 1));
      if (score > best.score) best = { score, sum, from: a, to: b };
    }
  if (best.score === 0) return null;
  const sign = Math.sign(best.sum);
  let line = { from: best.from, to: best.to };
  let found: { t: number; y: number; weight: number }[] = [];
  for (const near of [3, 2, 1.5]) {
    found = slopes.flatMap((s, i) => {
      const t = at(i);
      const y = line.from + (line.to - line.from) * t;
      const top = peak(s, sign, middle + y, near);
      return top ? [{ t, y: top.at - middle, weight: top.slope }] : [];
    });
    if (found.length < LEAST_SHARE * n) return null;
    const next = fitted(found);
    if (!next) return null;
    line = next;
  }
  const rms = Math.sqrt(found.reduce((s, p) => s + (p.y - line.from - (line.to - line.from) * p.t) ** 2, 0) / found.length);
  return { ...line, share: found.length / n, rmsPx: rms };
}

/** The steepest row within reach of another, between rows. */
function peak(s: Float64Array, sign: number, about: number, near: number): { at: number; slope: number } | null {
  let [best, row] = [LEAST_SLOPE, -1];
  for (let y = Math.max(3, Math.ceil(about - near)); y <= Math.min(s.length - 4, Math.floor(about + near)); y++)
    if (sign * s[y] > best) [best, row] = [sign * s[y], y];
  if (row < 0) return null;
  const [a, b, c] = [-1, 0, 1].map((d) => sign * s[row + d]);
  const bend = a - 2 * b + c;
  // The steepest one is beyond reach.
  if (bend >= 0) return null;
  return { at: row + Math.min(1, Math.max(-1, (a - c) / (2 * bend))), slope: b };
}

function fitted(places: readonly { t: number; y: number; weight: number }[]): { from: number; to: number } | null {
  let [w, t, y, tt, ty] = [0, 0, 0, 0, 0];
  for (const p of places) {
    w += p.weight;
    t += p.weight * p.t;
    y += p.weight * p.y;
    tt += p.weight * p.t * p.t;
    ty += p.weight * p.t * p.y;
  }
  const d = w * tt - t * t;
  if (!(Math.abs(d) > 1e-12)) return null;
  const slope = (w * ty - t * y) / d;
  const from = (y - slope * t) / w;
  return { from, to: from + slope };
}
