import { add, cross, dot, length, normalise, scale, sub, type Vec3 } from '../../maths/vec3';
import type { Adaptive } from '../step';

/**
 * Where lines of a grid go so that all of them leave the same error: between fixed places by equal shares of ∫√κ, because a
 * chord of length h across curvature κ stands κh²/8 off.
 */
export interface Spacing {
  /** Fewest steps: one between every two fixed places. */
  least: number;
  /** Largest error with n steps, mm. */
  errorMm(n: number): number;
  countFor(error: number): number;
  /** The places of n steps: n + 1, ascending; fixed ones are among them. */
  places(n: number): number[];
}

/** What a stretch of flat surface counts for beside the mean, so that its lines don't all go elsewhere. */
const FLAT = 0.08;
const MOST = 4096;

/**
 * @param fixed places that have a line, ascending
 * @param bend second derivative across the chord, mm per unit of place squared, at `samples` even places in the middle of even
 *   parts of the stretch that begins at fixed place i; the largest over all that runs there
 */
export function spacingOf(fixed: readonly number[], bend: (i: number) => Float64Array): Spacing {
  const stretches = fixed.slice(1).map((end, i) => {
    const roots = bend(i).map(Math.sqrt);
    const mean = roots.reduce((a, b) => a + b, 0) / roots.length;
    const floor = Math.max(mean * FLAT, 1e-9);
    const h = (end - fixed[i]) / roots.length;
    const sums = new Float64Array(roots.length + 1);
    for (let k = 0; k < roots.length; k++) sums[k + 1] = sums[k] + Math.max(roots[k], floor) * h;
    return { from: fixed[i], h, sums, whole: sums[roots.length] };
  });
  const errorOf = (whole: number, k: number): number => (whole / k) ** 2 / 8;
  const needed = (error: number): number[] => stretches.map((s) => Math.max(1, Math.ceil(s.whole / Math.sqrt(8 * error) - 1e-9)));
  /** Steps of each stretch: one more, again and again, where the error is largest. */
  const given = (n: number): number[] => {
    const steps = stretches.map(() => 1);
    for (let left = n - steps.length; left > 0; left--) {
      let worst = 0;
      for (let i = 1; i < steps.length; i++)
        if (errorOf(stretches[i].whole, steps[i]) > errorOf(stretches[worst].whole, steps[worst]) * (1 + 1e-9)) worst = i;
      steps[worst]++;
    }
    return steps;
  };
  return {
    least: stretches.length,
    errorMm(n) {
      const steps = given(Math.max(n, stretches.length));
      return Math.max(...stretches.map((s, i) => errorOf(s.whole, steps[i])));
    },
    countFor: (error) => Math.min(MOST, Math.max(stretches.length, error > 0 ? needed(error).reduce((a, b) => a + b, 0) : MOST)),
    places(n) {
      const steps = given(Math.max(n, stretches.length));
      const out = [fixed[0]];
      for (const [i, s] of stretches.entries())
        for (let k = 1; k <= steps[i]; k++) out.push(k === steps[i] ? fixed[i + 1] : placeAt(s, (k / steps[i]) * s.whole));
      return out;
    },
  };
}

function placeAt(s: { from: number; h: number; sums: Float64Array }, sum: number): number {
  let [low, high] = [0, s.sums.length - 1];
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (s.sums[middle] <= sum) low = middle;
    else high = middle;
  }
  return s.from + s.h * (low + (sum - s.sums[low]) / (s.sums[low + 1] - s.sums[low]));
}

/** A spacing as a count of the solver's. @param least fewest that make sense besides */
export const spacedCount = (key: string, label: string, spacing: Spacing, least: number, every?: number): Adaptive => ({
  key,
  label,
  minimum: Math.max(least, spacing.least),
  ...(every && { every }),
  errorMm: (n) => spacing.errorMm(n),
  countFor: (e) => Math.max(least, spacing.countFor(e)),
});

/** Parts each stretch is measured in, both ways. */
const PARTS = 16;

/** A surface to be covered by a grid, u across and w along. */
export interface Measured {
  /** Places that have a line, ascending. */
  columns: readonly number[];
  rows: readonly number[];
  /** A place of it, once for each of its sides. */
  at(u: number, w: number): Vec3[];
  /** Whether the line there is an edge: it bends by all it bends, not only by what leaves the surface. */
  edgeColumn(u: number): boolean;
  edgeRow(w: number): boolean;
}

/**
 * Spacings of columns and rows. A line bends by the normal part of its second derivative, and by its half of the twist between
 * neighbouring lines: a face a × b with twist m stands ab·m/4 off at its middle, at most (a²m + b²m)/8. Rows and columns together
 * may so stand off by the sum of both their errors in the middle of a face, and by the larger one along its sides.
 */
export function spacings(of: Measured): { columns: Spacing; rows: Spacing } {
  const [I, J] = [of.columns.length - 1, of.rows.length - 1];
  const across = Array.from({ length: I }, () => new Float64Array(PARTS + 1));
  const along = Array.from({ length: J }, () => new Float64Array(PARTS + 1));
  for (let i = 0; i < I; i++)
    for (let j = 0; j < J; j++) {
      const [hu, hw] = [(of.columns[i + 1] - of.columns[i]) / PARTS, (of.rows[j + 1] - of.rows[j]) / PARTS];
      const us = Array.from({ length: PARTS + 1 }, (_, a) => (a === PARTS ? of.columns[i + 1] : of.columns[i] + a * hu));
      const ws = Array.from({ length: PARTS + 1 }, (_, b) => (b === PARTS ? of.rows[j + 1] : of.rows[j] + b * hw));
      const nodes = us.map((u) => ws.map((w) => of.at(u, w)));
      const edges = { column: us.map((u) => of.edgeColumn(u)), row: ws.map((w) => of.edgeRow(w)) };
      for (let side = 0; side < nodes[0][0].length; side++) bends(nodes, side, hu, hw, edges, across[i], along[j]);
    }
  const parts = (nodes: Float64Array): Float64Array => {
    [nodes[0], nodes[PARTS]] = [nodes[1], nodes[PARTS - 1]];
    return Float64Array.from({ length: PARTS }, (_, k) => (nodes[k] + nodes[k + 1]) / 2);
  };
  return { columns: spacingOf(of.columns, (i) => parts(across[i])), rows: spacingOf(of.rows, (j) => parts(along[j])) };
}

function bends(
  nodes: readonly (readonly (readonly Vec3[])[])[],
  side: number,
  hu: number,
  hw: number,
  edges: { column: readonly boolean[]; row: readonly boolean[] },
  across: Float64Array,
  along: Float64Array,
): void {
  const at = (a: number, b: number): Vec3 => nodes[a][b][side];
  const held = (k: number) => Math.max(0, Math.min(PARTS, k));
  const first = (a: number, b: number, da: number, db: number, h: number): Vec3 => {
    const [p, q] = [at(held(a + da), held(b + db)), at(held(a - da), held(b - db))];
    const steps = Math.abs(held(a + da) - held(a - da)) + Math.abs(held(b + db) - held(b - db));
    return scale(sub(p, q), 1 / (steps * h));
  };
  const second = (a: number, b: number, da: number, db: number, h: number): Vec3 =>
    scale(add(sub(at(a + da, b + db), at(a, b)), sub(at(a - da, b - db), at(a, b))), 1 / (h * h));
  const full = (d2: Vec3, travel: Vec3): number => {
    const t = normalise(travel);
    return length(sub(d2, scale(t, dot(d2, t))));
  };
  for (let a = 0; a <= PARTS; a++)
    for (let b = 0; b <= PARTS; b++) {
      const [u, w] = [first(a, b, 1, 0, hu), first(a, b, 0, 1, hw)];
      const normal = normalise(cross(w, u));
      const inside = a > 0 && a < PARTS && b > 0 && b < PARTS;
      const twist = inside
        ? Math.abs(
            dot(normal, scale(sub(sub(at(a + 1, b + 1), at(a + 1, b - 1)), sub(at(a - 1, b + 1), at(a - 1, b - 1))), 1 / (4 * hu * hw))),
          )
        : 0;
      const [lu, lw] = [length(u), length(w)];
      // Where one of them vanishes, at a point, there is nothing to twist.
      const still = Math.min(lu * (hu * PARTS), lw * (hw * PARTS)) < 1e-6;
      if (b > 0 && b < PARTS) {
        const d2 = second(a, b, 0, 1, hw);
        const by = edges.column[a] ? full(d2, w) : Math.abs(dot(d2, normal)) + (still ? 0 : (twist * lw) / lu);
        along[b] = Math.max(along[b], by);
      }
      if (a > 0 && a < PARTS) {
        const d2 = second(a, b, 1, 0, hu);
        const by = edges.row[b] ? full(d2, u) : Math.abs(dot(d2, normal)) + (still ? 0 : (twist * lu) / lw);
        across[a] = Math.max(across[a], by);
      }
    }
}
