/**
 * Cholesky factors of sparse symmetric positive definite matrices: the pattern is worked out once (elimination tree, column counts;
 * Davis 2006, ch. 4), numbers are put in as often as wanted. The rows are taken in an order that keeps the factor sparse.
 */
export class SparseCholesky {
  /** Row → its place in the order. */
  private readonly placeOf: Int32Array;
  private readonly parent: Int32Array;
  /** Columns of the factor: where they start, rows, values; the diagonal comes first. */
  private readonly start: Int32Array;
  private readonly rows: Int32Array;
  private readonly values: Float64Array;
  /** Upper triangle in the order, by columns, and from which value each entry comes. */
  private readonly upperStart: Int32Array;
  private readonly upperRow: Int32Array;
  private readonly upperFrom: Int32Array;
  private readonly work: Float64Array;
  private readonly fill: Int32Array;
  private readonly stack: Int32Array;
  private readonly mark: Int32Array;

  /**
   * @param n rows
   * @param entryRow, entryColumn where the values handed to {@link factor} belong: each pair of rows once, either way round, and every
   *   diagonal; entries of one place are added up
   * @param order the rows in the order in which they are eliminated
   */
  constructor(
    readonly n: number,
    entryRow: ArrayLike<number>,
    entryColumn: ArrayLike<number>,
    order: ArrayLike<number>,
  ) {
    this.placeOf = new Int32Array(n);
    for (let i = 0; i < n; i++) this.placeOf[order[i]] = i;
    const count = new Int32Array(n + 1);
    const column = (k: number) => Math.max(this.placeOf[entryRow[k]], this.placeOf[entryColumn[k]]);
    for (let k = 0; k < entryRow.length; k++) count[column(k) + 1]++;
    for (let i = 0; i < n; i++) count[i + 1] += count[i];
    this.upperStart = count;
    this.upperRow = new Int32Array(entryRow.length);
    this.upperFrom = new Int32Array(entryRow.length);
    const next = count.slice(0, n);
    for (let k = 0; k < entryRow.length; k++) {
      const at = next[column(k)]++;
      this.upperRow[at] = Math.min(this.placeOf[entryRow[k]], this.placeOf[entryColumn[k]]);
      this.upperFrom[at] = k;
    }
    this.stack = new Int32Array(n);
    this.mark = new Int32Array(n).fill(-1);
    this.parent = this.tree();
    this.start = new Int32Array(n + 1);
    const columns = new Int32Array(n).fill(1);
    for (let k = 0; k < n; k++) for (let top = this.reach(k); top < n; top++) columns[this.stack[top]]++;
    for (let i = 0; i < n; i++) this.start[i + 1] = this.start[i] + columns[i];
    this.rows = new Int32Array(this.start[n]);
    this.values = new Float64Array(this.start[n]);
    this.work = new Float64Array(n);
    this.fill = new Int32Array(n);
  }

  /** Numbers of the factor, its diagonal included. */
  get size(): number {
    return this.rows.length;
  }

  private tree(): Int32Array {
    const { n } = this;
    const parent = new Int32Array(n).fill(-1);
    const ancestor = new Int32Array(n).fill(-1);
    for (let k = 0; k < n; k++)
      for (let p = this.upperStart[k]; p < this.upperStart[k + 1]; p++)
        for (let i = this.upperRow[p]; i !== -1 && i < k; ) {
          const up = ancestor[i];
          ancestor[i] = k;
          if (up === -1) parent[i] = k;
          i = up;
        }
    return parent;
  }

  /** Columns that row k of the factor has entries in, in the order of elimination, at the end of the stack; says where they begin. */
  private reach(k: number): number {
    const { stack, mark, parent, upperStart, upperRow } = this;
    let top = this.n;
    // Rows are asked in turn over and over: a mark of an earlier round must not be taken for one of this.
    mark[k] = k;
    for (let p = upperStart[k]; p < upperStart[k + 1]; p++) {
      let length = 0;
      for (let i = upperRow[p]; mark[i] !== k; i = parent[i]) {
        stack[length++] = i;
        mark[i] = k;
      }
      while (length > 0) stack[--top] = stack[--length];
    }
    return top;
  }

  /** Factors the matrix of these values. False when it is not positive definite; then nothing can be solved. */
  factor(from: ArrayLike<number>): boolean {
    const { n, start, rows, values, work, fill, stack, upperStart, upperRow, upperFrom } = this;
    for (let i = 0; i < n; i++) fill[i] = start[i];
    this.mark.fill(-1);
    work.fill(0);
    for (let k = 0; k < n; k++) {
      const top = this.reach(k);
      for (let p = upperStart[k]; p < upperStart[k + 1]; p++) work[upperRow[p]] += from[upperFrom[p]];
      let d = work[k];
      work[k] = 0;
      for (let t = top; t < n; t++) {
        const i = stack[t];
        const l = work[i] / values[start[i]];
        work[i] = 0;
        const end = fill[i];
        for (let p = start[i] + 1; p < end; p++) work[rows[p]] -= values[p] * l;
        d -= l * l;
        rows[end] = k;
        values[end] = l;
        fill[i] = end + 1;
      }
      if (!(d > 0)) return false;
      const p = fill[k]++;
      rows[p] = k;
      values[p] = Math.sqrt(d);
    }
    return true;
  }

  /** Solves for a right-hand side, which is overwritten by the solution. */
  solve(b: Float64Array): void {
    const { n, start, rows, values, placeOf } = this;
    const x = new Float64Array(n);
    for (let i = 0; i < n; i++) x[placeOf[i]] = b[i];
    for (let j = 0; j < n; j++) {
      x[j] /= values[start[j]];
      const v = x[j];
      for (let p = start[j] + 1; p < start[j + 1]; p++) x[rows[p]] -= values[p] * v;
    }
    for (let j = n - 1; j >= 0; j--) {
      let v = x[j];
      for (let p = start[j] + 1; p < start[j + 1]; p++) v -= values[p] * x[rows[p]];
      x[j] = v / values[start[j]];
    }
    for (let i = 0; i < n; i++) b[i] = x[placeOf[i]];
  }
}

/**
 * An order of elimination by nested dissection (George 1973) of points in space: halves across their longest extent, those of one half
 * that touch the other last.
 *
 * @param points 3 numbers each
 * @param start, neighbours neighbours of point i: `neighbours[start[i] … start[i + 1] - 1]`
 */
export function dissected(points: ArrayLike<number>, start: ArrayLike<number>, neighbours: ArrayLike<number>): Int32Array {
  const n = start.length - 1;
  const order = new Int32Array(n);
  const side = new Int32Array(n);
  let stamp = 0;
  let end = n;
  // Separators are put at the end, before those of the halves: the stack holds what lies still before `end`.
  const divide = (part: Int32Array): void => {
    if (part.length <= 12) {
      for (const v of part) order[--end] = v;
      return;
    }
    const low = [Infinity, Infinity, Infinity];
    const high = [-Infinity, -Infinity, -Infinity];
    for (const v of part)
      for (let k = 0; k < 3; k++) {
        const x = points[3 * v + k];
        if (x < low[k]) low[k] = x;
        if (x > high[k]) high[k] = x;
      }
    const axis = [0, 1, 2].reduce((best, k) => (high[k] - low[k] > high[best] - low[best] ? k : best), 0);
    const sorted = part.slice().sort((a, b) => points[3 * a + axis] - points[3 * b + axis] || a - b);
    const middle = sorted.length >> 1;
    const [one, two] = [++stamp, ++stamp];
    for (let i = 0; i < sorted.length; i++) side[sorted[i]] = i < middle ? one : two;
    const first: number[] = [];
    for (let i = 0; i < middle; i++) {
      const v = sorted[i];
      let touches = false;
      for (let p = start[v]; p < start[v + 1] && !touches; p++) touches = side[neighbours[p]] === two;
      if (touches) order[--end] = v;
      else first.push(v);
    }
    divide(sorted.slice(middle));
    divide(Int32Array.from(first));
  };
  divide(Int32Array.from({ length: n }, (_, i) => i));
  return order;
}
