import { type Adaptive, allowedCount } from '../step';

/** Counts by key: sides, rings, segments. */
export type Counts = Record<string, number>;

/** Counts that can be chosen, and what each costs and is worth. */
export interface BudgetProblem {
  adaptive: readonly Adaptive[];
  /** Triangles of the whole asset with these counts; must not fall when a count rises. */
  triangles(count: (a: Adaptive) => number): number;
  limit: number;
  /** Counts a person has fixed. */
  locks?: Counts;
}

/** Counts that a limit of triangles is spent on. */
export interface Budget {
  counts: Counts;
  triangles: number;
  /** Largest error left, over locked counts too, mm. */
  worstMm: number;
  /** What that largest error belongs to. */
  worstLabel: string;
  /** The most an outline can be off, mm: where a surface is round both ways, the errors of its two counts add up. */
  outlineMm: number;
  /** False when even the fewest sides are over the limit. */
  fits: boolean;
  /** Worst error with a tenth more triangles, mm. */
  tenthMoreMm: number;
  /** Triangles against worst error, for the curve. */
  curve: { triangles: number; errorMm: number }[];
}

/** The fewest counts that keep every error within one; locked ones as they are. */
export const countsAt = (problem: BudgetProblem, error: number): Counts =>
  Object.fromEntries(problem.adaptive.map((a) => [a.key, allowedCount(a, problem.locks?.[a.key] ?? a.countFor(error))]));
const total = (problem: BudgetProblem, counts: Counts): number => problem.triangles((a) => counts[a.key] ?? a.minimum);
const worst = (problem: BudgetProblem, counts: Counts): Adaptive | undefined =>
  problem.adaptive.reduce<Adaptive | undefined>((w, a) => (!w || a.errorMm(counts[a.key]) > w.errorMm(counts[w.key]) ? a : w), undefined);

/**
 * Spends a triangle limit where the silhouette needs it: every count follows from one tolerance ε, and the smallest ε whose
 * total still fits is found by bisection. T(ε) is a falling step function, so that is optimal for the worst error. What is
 * left then lowers the next-largest errors in turn, one side (or as many as it has to be a multiple of) at a time, until nothing more fits.
 */
export function solveBudget(problem: BudgetProblem): Budget {
  const counts = smallestWorst(problem, problem.limit);
  const fits = total(problem, counts) <= problem.limit;
  if (fits) spendRest(problem, counts);
  const w = worst(problem, counts);
  const more = smallestWorst(problem, Math.floor(problem.limit * 1.1));
  const m = worst(problem, more);
  return {
    counts,
    triangles: total(problem, counts),
    worstMm: w ? w.errorMm(counts[w.key]) : 0,
    worstLabel: w?.label ?? '',
    outlineMm: outlineOf(problem, counts),
    fits,
    tenthMoreMm: m ? m.errorMm(more[m.key]) : 0,
    curve: budgetCurve(problem),
  };
}

/** Counts of one step stand on one surface; its two largest errors can meet in one place. */
export function outlineOf(problem: Pick<BudgetProblem, 'adaptive'>, counts: Counts): number {
  const steps = new Map<string, number[]>();
  for (const a of problem.adaptive) {
    const step = a.key.split('.')[0];
    steps.set(step, [...(steps.get(step) ?? []), a.errorMm(counts[a.key])].sort((x, y) => y - x).slice(0, 2));
  }
  return Math.max(0, ...[...steps.values()].map((errors) => errors.reduce((s, x) => s + x, 0)));
}

function smallestWorst(problem: BudgetProblem, limit: number): Counts {
  let low = Math.log(1e-5);
  let high = Math.log(1e3);
  if (total(problem, countsAt(problem, Math.exp(low))) <= limit) return countsAt(problem, Math.exp(low));
  for (let i = 0; i < 60; i++) {
    const middle = (low + high) / 2;
    if (total(problem, countsAt(problem, Math.exp(middle))) <= limit) high = middle;
    else low = middle;
  }
  return countsAt(problem, Math.exp(high));
}

function spendRest(problem: BudgetProblem, counts: Counts): void {
  const free = problem.adaptive.filter((a) => problem.locks?.[a.key] === undefined);
  const full = new Set<string>();
  while (full.size < free.length) {
    const next = free.filter((a) => !full.has(a.key)).reduce((w, a) => (a.errorMm(counts[a.key]) > w.errorMm(counts[w.key]) ? a : w));
    const every = next.every ?? 1;
    counts[next.key] += every;
    if (total(problem, counts) > problem.limit || next.errorMm(counts[next.key]) < 1e-5) {
      counts[next.key] -= every;
      full.add(next.key);
    }
  }
}

function budgetCurve(problem: BudgetProblem): Budget['curve'] {
  const out: Budget['curve'] = [];
  for (let i = 0; i <= 40; i++) {
    const error = 10 ** (0.7 - (i * 3) / 40);
    const counts = countsAt(problem, error);
    const w = worst(problem, counts);
    const triangles = total(problem, counts);
    if (w && triangles !== out[out.length - 1]?.triangles) out.push({ triangles, errorMm: w.errorMm(counts[w.key]) });
  }
  return out;
}

/** Every count at a tolerance: what a piece would need to stay within it. */
export function trianglesFor(problem: Omit<BudgetProblem, 'limit'>, errorMm: number): { counts: Counts; triangles: number } {
  const whole = { ...problem, limit: Infinity };
  const counts = countsAt(whole, errorMm);
  return { counts, triangles: total(whole, counts) };
}
