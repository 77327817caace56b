/** A least-squares solution: the parameters, what is left of each residual, and how sure the parameters are. */
export interface Fit {
  parameters: number[];
  residuals: number[];
  /** Root of the mean square of the residuals. */
  rms: number;
  /** Standard deviation of each parameter, by the spread of the residuals; `Infinity` where nothing holds it. */
  deviations: number[];
}

const MOST_STEPS = 60;

/**
 * Least squares by Levenberg and Marquardt (Marquardt 1963), for a handful of parameters: derivatives by differences.
 *
 * @param residuals of parameters; as many as it likes, always the same number
 * @param dependent how many of the residuals follow from the others: places of an edge lie about their own middle
 * @param unit spread that residuals are taken to have where there are no more of them than parameters
 */
export function leastSquares(start: readonly number[], residuals: (p: readonly number[]) => number[], dependent = 0, unit = 1): Fit {
  let p = [...start];
  let r = residuals(p);
  let cost = sumOfSquares(r);
  let damping = 1e-3;
  for (let step = 0; step < MOST_STEPS; step++) {
    const { normal, gradient } = normalEquations(p, r, residuals);
    let better = false;
    for (let tries = 0; tries < 12 && !better; tries++) {
      const damped = normal.map((row, i) => row.map((x, j) => (i === j ? x * (1 + damping) + 1e-18 : x)));
      const delta = solve(damped, gradient);
      const next = delta ? p.map((x, i) => x - delta[i]) : p;
      const after = delta ? residuals(next) : r;
      const now = sumOfSquares(after);
      if (delta && now < cost) {
        better = true;
        const gained = (cost - now) / Math.max(cost, 1e-300);
        [p, r, cost] = [next, after, now];
        damping = Math.max(1e-12, damping / 8);
        if (gained < 1e-14) step = MOST_STEPS;
      } else damping *= 8;
    }
    if (!better) break;
  }
  const { normal } = normalEquations(p, r, residuals);
  const free = r.length - dependent - p.length;
  const variance = free > 0 ? Math.max(cost / free, 1e-30) : unit * unit;
  const deviations = p.map((_, i) => {
    const column = solve(
      normal,
      p.map((__, k) => (k === i ? 1 : 0)),
    );
    return column && column[i] >= 0 ? Math.sqrt(variance * column[i]) : Infinity;
  });
  return { parameters: p, residuals: r, rms: Math.sqrt(cost / Math.max(1, r.length - dependent)), deviations };
}

const sumOfSquares = (r: readonly number[]): number => r.reduce((n, x) => n + (Number.isFinite(x) ? x * x : 1e30), 0);

function normalEquations(
  p: readonly number[],
  r: readonly number[],
  residuals: (p: readonly number[]) => number[],
): { normal: number[][]; gradient: number[] } {
  const columns = p.map((x, i) => {
    const h = 1e-6 * Math.max(1, Math.abs(x));
    const [up, down] = [1, -1].map((s) => residuals(p.map((y, k) => (k === i ? y + s * h : y))));
    return up.map((u, k) => (u - down[k]) / (2 * h));
  });
  return {
    normal: columns.map((a) => columns.map((b) => a.reduce((n, x, k) => n + x * b[k], 0))),
    gradient: columns.map((a) => a.reduce((n, x, k) => n + x * r[k], 0)),
  };
}

/** A small linear system by elimination with pivots; null where it is singular. */
export function solve(matrix: readonly (readonly number[])[], right: readonly number[]): number[] | null {
  const n = right.length;
  const a = matrix.map((row, i) => [...row, right[i]]);
  const scale = Math.max(...matrix.flatMap((row) => row.map(Math.abs)), 1e-300);
  for (let k = 0; k < n; k++) {
    let pivot = k;
    for (let i = k + 1; i < n; i++) if (Math.abs(a[i][k]) > Math.abs(a[pivot][k])) pivot = i;
    if (Math.abs(a[pivot][k]) < 1e-15 * scale) return null;
    [a[k], a[pivot]] = [a[pivot], a[k]];
    for (let i = k + 1; i < n; i++) {
      const f = a[i][k] / a[k][k];
      for (let j = k; j <= n; j++) a[i][j] -= f * a[k][j];
    }
  }
  const x = new Array<number>(n).fill(0);
  for (let i = n - 1; i >= 0; i--) {
    let s = a[i][n];
    for (let j = i + 1; j < n; j++) s -= a[i][j] * x[j];
    x[i] = s / a[i][i];
  }
  return x;
}
