import { type Adaptive, allowedCount } from '../step';
import type { BudgetProblem, Counts } from './solve';

const gcd = (a: number, b: number): number => (b === 0 ? a : gcd(b, a % b));

/**
 * Counts that have to be equal, as one: rims that are joined, mirrored halves made one by one. The one has the largest error of all
 * of them, the highest minimum, and multiples that suit each.
 *
 * @param groups keys that go together; keys nobody has, and groups of one, are passed over
 * @returns the problem with one count for each group, and what spreads its counts over all again
 */
export function matched(
  problem: BudgetProblem,
  groups: readonly (readonly string[])[],
): { problem: BudgetProblem; spread(counts: Counts): Counts } {
  const byKey = new Map(problem.adaptive.map((a) => [a.key, a]));
  const leader = new Map<string, string>();
  const merged = new Map<string, Adaptive>();
  for (const group of groups) {
    const members = group.flatMap((k) => byKey.get(k) ?? []).filter((a) => !leader.has(a.key));
    if (members.length < 2) continue;
    const every = members.reduce((m, a) => (m * (a.every ?? 1)) / gcd(m, a.every ?? 1), 1);
    const one: Adaptive = {
      key: members[0].key,
      label: members.map((a) => a.label).join(' = '),
      minimum: Math.max(...members.map((a) => allowedCount(a, a.minimum))),
      every,
      errorMm: (n) => Math.max(...members.map((a) => a.errorMm(n))),
      countFor: (e) => Math.max(...members.map((a) => a.countFor(e))),
    };
    for (const a of members) {
      leader.set(a.key, one.key);
      merged.set(a.key, one);
    }
  }
  if (leader.size === 0) return { problem, spread: (counts) => counts };
  const adaptive = problem.adaptive.flatMap((a) => {
    const one = merged.get(a.key);
    return one ? (one.key === a.key ? [one] : []) : [a];
  });
  // What one of them is fixed at holds for all: the largest where several are.
  const locks: Counts = {};
  for (const [key, n] of Object.entries(problem.locks ?? {})) {
    const to = leader.get(key) ?? key;
    locks[to] = Math.max(locks[to] ?? 0, n);
  }
  return {
    problem: { ...problem, adaptive, locks, triangles: (count) => problem.triangles((a) => count(merged.get(a.key) ?? a)) },
    spread: (counts) => ({ ...counts, ...Object.fromEntries([...leader].map(([key, to]) => [key, counts[to]])) }),
  };
}
