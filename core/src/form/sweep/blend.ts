/** How far a quantity given at stations counts anywhere between them. */

/** What happens beyond the first and the last station: held as it is there, or run on. */
export type Ends = readonly [start: 'held' | 'free', end: 'held' | 'free'];

/**
 * Shares of each station at any place, summing to 1: a C² cubic spline through them (the batten of a lofting floor; tridiagonal
 * slopes, e.g. de Boor 1978, ch. IV), or straight from one to the next.
 *
 * A held end leaves its station level, as it is beyond it; a free one has no curvature there and runs straight on.
 *
 * @param stations places along, mm, ascending, all different; one alone holds everywhere
 */
export function shares(stations: readonly number[], how: 'smooth' | 'straight', ends: Ends): (at: number) => number[] {
  const n = stations.length;
  if (n === 1) return () => [1];
  const slopes = how === 'smooth' ? splineSlopes(stations, ends) : null;
  return (at) => {
    const i = Math.max(
      0,
      Math.min(
        n - 2,
        stations.findLastIndex((s) => s <= at),
      ),
    );
    const h = stations[i + 1] - stations[i];
    const [before, after] = [at < stations[0], at > stations[n - 1]];
    const out = new Array<number>(n).fill(0);
    if ((before && (ends[0] === 'held' || !slopes)) || (after && (ends[1] === 'held' || !slopes))) {
      out[before ? 0 : n - 1] = 1;
      return out;
    }
    const t = (at - stations[i]) / h;
    if (!slopes) {
      out[i] = 1 - t;
      out[i + 1] = t;
      return out;
    }
    if (before || after) {
      const k = before ? 0 : n - 1;
      for (let j = 0; j < n; j++) out[j] = (j === k ? 1 : 0) + (at - stations[k]) * slopes[k][j];
      return out;
    }
    const [h00, h10] = [(1 + 2 * t) * (1 - t) ** 2, t * (1 - t) ** 2];
    for (let j = 0; j < n; j++) out[j] = h * (h10 * slopes[i][j] + t * t * (t - 1) * slopes[i + 1][j]);
    out[i] += h00;
    out[i + 1] += 1 - h00;
    return out;
  };
}

/** Row i: what each station’s value adds to the slope at station i. */
function splineSlopes(x: readonly number[], ends: Ends): number[][] {
  const n = x.length;
  const unit = (k: number, by: number): number[] => Array.from({ length: n }, (_, j) => (j === k ? by : 0));
  const plus = (a: number[], b: number[], by = 1): number[] => a.map((v, j) => v + by * b[j]);
  const rows = x.map((_, i): { low: number; mid: number; high: number; right: number[] } => {
    const [h, k] = [i > 0 ? x[i] - x[i - 1] : 0, i + 1 < n ? x[i + 1] - x[i] : 0];
    if (i === 0)
      return ends[0] === 'held'
        ? { low: 0, mid: 1, high: 0, right: unit(0, 0) }
        : { low: 0, mid: 2, high: 1, right: plus(unit(1, 3 / k), unit(0, -3 / k)) };
    if (i === n - 1)
      return ends[1] === 'held'
        ? { low: 0, mid: 1, high: 0, right: unit(0, 0) }
        : { low: 1, mid: 2, high: 0, right: plus(unit(i, 3 / h), unit(i - 1, -3 / h)) };
    const right = plus(plus(unit(i + 1, (3 * h) / k), unit(i, (3 * k) / h - (3 * h) / k)), unit(i - 1, (-3 * k) / h));
    return { low: k, mid: 2 * (h + k), high: h, right };
  });
  for (let i = 1; i < n; i++) {
    const f = rows[i].low / rows[i - 1].mid;
    rows[i].mid -= f * rows[i - 1].high;
    rows[i].right = plus(rows[i].right, rows[i - 1].right, -f);
  }
  for (let i = n - 1; i >= 0; i--) {
    if (i + 1 < n) rows[i].right = plus(rows[i].right, rows[i + 1].right, -rows[i].high);
    rows[i].right = rows[i].right.map((v) => v / rows[i].mid);
  }
  return rows.map((r) => r.right);
}

/**
 * A curve through values that never overshoots them: monotone cubic (Fritsch and Carlson 1980, with their harmonic slopes of
 * 1984). Held beyond its first and last value; 1 alone holds everywhere.
 */
export function throughValues(at: readonly number[], values: readonly number[]): (x: number) => number {
  const n = at.length;
  if (n === 0) throw new RangeError('no values');
  const h = at.slice(1).map((x, i) => x - at[i]);
  const d = h.map((x, i) => (values[i + 1] - values[i]) / x);
  const m = values.map((_, i) => {
    if (i === 0 || i === n - 1 || d[i - 1] * d[i] <= 0) return 0;
    const [a, b] = [2 * h[i] + h[i - 1], h[i] + 2 * h[i - 1]];
    return (a + b) / (a / d[i - 1] + b / d[i]);
  });
  return (x) => {
    if (!(x > at[0])) return values[0];
    if (x >= at[n - 1]) return values[n - 1];
    const i = at.findLastIndex((a) => a <= x);
    const t = (x - at[i]) / h[i];
    return values[i] + (values[i + 1] - values[i]) * t * t * (3 - 2 * t) + h[i] * (m[i] * t * (1 - t) ** 2 + m[i + 1] * t * t * (t - 1));
  };
}
