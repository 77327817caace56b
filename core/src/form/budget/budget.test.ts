import { describe, expect, it } from 'vitest';
import { random } from '../../maths/random';
import type { Adaptive } from '../step';
import { balancedCount, balancedError } from './chord';
import { type BudgetProblem, solveBudget } from './solve';

describe('the budget', () => {
  const circle = (key: string, radius: number): Adaptive => ({
    key,
    label: key,
    minimum: 3,
    errorMm: (n) => balancedError(radius, n),
    countFor: (e) => balancedCount(radius, e),
  });
  const problem = (radii: number[], rows: number[], limit: number): BudgetProblem => {
    const adaptive = radii.map((r, i) => circle(`c${i}`, r));
    return { adaptive, triangles: (count) => adaptive.reduce((s, a, i) => s + rows[i] * count(a), 0), limit };
  };
  it('finds no worse than exhaustive search on 60 small cases', () => {
    const next = random(31);
    for (let i = 0; i < 60; i++) {
      const radii = [1 + 30 * next(), 1 + 30 * next(), 1 + 30 * next()];
      const rows = [2, 4, 6].map((x) => x * (1 + Math.floor(next() * 3)));
      const limit = Math.floor(120 + 300 * next());
      const p = problem(radii, rows, limit);
      const found = solveBudget(p);
      let best = Infinity;
      for (let a = 3; a < 40; a++)
        for (let b = 3; b < 40; b++)
          for (let c = 3; c < 40; c++)
            if (rows[0] * a + rows[1] * b + rows[2] * c <= limit)
              best = Math.min(best, Math.max(balancedError(radii[0], a), balancedError(radii[1], b), balancedError(radii[2], c)));
      if (best === Infinity) expect(found.fits).toBe(false);
      else {
        expect(found.triangles).toBeLessThanOrEqual(limit);
        expect(found.worstMm).toBeLessThanOrEqual(best * (1 + 1e-9));
      }
    }
  });
  it('leaves nothing that would still fit', () => {
    const p = problem([20, 5], [4, 6], 500);
    const found = solveBudget(p);
    expect(500 - found.triangles).toBeLessThan(4);
    expect(found.tenthMoreMm).toBeLessThan(found.worstMm);
  });
  it('keeps what a person fixed', () => {
    const p = { ...problem([20, 5], [4, 6], 500), locks: { c1: 8 } };
    expect(solveBudget(p).counts.c1).toBe(8);
  });
  it('says when even the fewest sides are too many', () => {
    expect(solveBudget(problem([20, 5], [40, 60], 100)).fits).toBe(false);
  });
});
