import { describe, expect, it } from 'vitest';
import { dissected, SparseCholesky } from './cholesky';
import { random } from './random';

/** A dense Cholesky solve, row by row as in any textbook, to hold the sparse one against. */
function dense(a: number[][], b: readonly number[]): number[] {
  const n = b.length;
  const l = a.map((row) => [...row]);
  for (let j = 0; j < n; j++) {
    for (let k = 0; k < j; k++) l[j][j] -= l[j][k] ** 2;
    l[j][j] = Math.sqrt(l[j][j]);
    for (let i = j + 1; i < n; i++) {
      for (let k = 0; k < j; k++) l[i][j] -= l[i][k] * l[j][k];
      l[i][j] /= l[j][j];
    }
  }
  const x = [...b];
  for (let i = 0; i < n; i++) {
    for (let k = 0; k < i; k++) x[i] -= l[i][k] * x[k];
    x[i] /= l[i][i];
  }
  for (let i = n - 1; i >= 0; i--) {
    for (let k = i + 1; k < n; k++) x[i] -= l[k][i] * x[k];
    x[i] /= l[i][i];
  }
  return x;
}

/** The Laplacian of an m × m grid whose rim is held at zero, and an order for it. */
function grid(m: number) {
  const row: number[] = [];
  const column: number[] = [];
  const value: number[] = [];
  const points: number[] = [];
  const near: number[][] = [];
  for (let i = 0; i < m * m; i++) {
    const [x, y] = [i % m, Math.floor(i / m)];
    points.push(x, y, 0);
    row.push(i);
    column.push(i);
    value.push(4);
    near.push([x > 0 ? i - 1 : -1, x < m - 1 ? i + 1 : -1, y > 0 ? i - m : -1, y < m - 1 ? i + m : -1].filter((j) => j >= 0));
    for (const j of near[i])
      if (j > i) {
        row.push(i);
        column.push(j);
        value.push(-1);
      }
  }
  const start = [0];
  for (const l of near) start.push(start[start.length - 1] + l.length);
  return { row, column, value, order: dissected(points, start, near.flat()), points };
}

describe('sparse Cholesky', () => {
  it('solves what a dense factor solves: random positive definite matrices in random orders', () => {
    const next = random(21);
    for (let round = 0; round < 30; round++) {
      const n = 3 + Math.floor(30 * next());
      const a = Array.from({ length: n }, () => new Array<number>(n).fill(0));
      const [row, column, value]: [number[], number[], number[]] = [[], [], []];
      const put = (i: number, j: number, x: number) => {
        row.push(i);
        column.push(j);
        value.push(x);
        a[i][j] += x;
        if (i !== j) a[j][i] += x;
      };
      for (let i = 0; i < n; i++) put(i, i, 1 + next());
      for (let k = 0; k < 3 * n; k++) {
        const [i, j] = [Math.floor(next() * n), Math.floor(next() * n)];
        const x = next() - 0.5;
        if (i === j) continue;
        // A positive definite matrix of its own each: |x| (eᵢ ± eⱼ)(eᵢ ± eⱼ)ᵀ. Either way round, and twice in one place.
        put(i, j, x);
        put(i, i, Math.abs(x));
        put(j, j, Math.abs(x));
      }
      const order = Array.from({ length: n }, (_, i) => i).sort(() => next() - 0.5);
      const solver = new SparseCholesky(n, row, column, order);
      expect(solver.factor(value)).toBe(true);
      const b = Float64Array.from({ length: n }, () => next() - 0.5);
      const wanted = dense(a, [...b]);
      solver.solve(b);
      for (let i = 0; i < n; i++) expect(b[i]).toBeCloseTo(wanted[i], 9);
    }
  });
  it('a grid’s Laplacian: eigenvectors come back over their eigenvalues, 4 − 2 cos(pπ/(m+1)) − 2 cos(qπ/(m+1))', () => {
    const m = 31;
    const { row, column, value, order } = grid(m);
    const solver = new SparseCholesky(m * m, row, column, order);
    expect(solver.factor(value)).toBe(true);
    for (const [p, q] of [
      [1, 1],
      [2, 5],
      [31, 30],
    ]) {
      const wave = Float64Array.from(
        { length: m * m },
        (_, i) => Math.sin((p * Math.PI * ((i % m) + 1)) / (m + 1)) * Math.sin((q * Math.PI * (Math.floor(i / m) + 1)) / (m + 1)),
      );
      const eigenvalue = 4 - 2 * Math.cos((p * Math.PI) / (m + 1)) - 2 * Math.cos((q * Math.PI) / (m + 1));
      const x = wave.slice();
      solver.solve(x);
      for (let i = 0; i < x.length; i++) expect(x[i] * eigenvalue).toBeCloseTo(wave[i], 9);
    }
  });
  it('dissection takes every row once, and fills a grid’s factor less than going through it row by row', () => {
    const m = 40;
    const { row, column, order } = grid(m);
    expect([...order].sort((a, b) => a - b)).toEqual(Array.from({ length: m * m }, (_, i) => i));
    const plain = new SparseCholesky(
      m * m,
      row,
      column,
      Array.from({ length: m * m }, (_, i) => i),
    );
    expect(new SparseCholesky(m * m, row, column, order).size).toBeLessThan(0.5 * plain.size);
  });
  it('says when a matrix is not positive definite', () => {
    const solver = new SparseCholesky(2, [0, 1, 0], [0, 1, 1], [0, 1]);
    expect(solver.factor([1, 1, 2])).toBe(false);
    expect(solver.factor([1, 1, 0.5])).toBe(true);
  });
});
