import { keepersChest } from '@wellmorph/demo/lamp-room';
import { describe, expect, it } from 'vitest';
import { asset, none, part } from '../../test/assets';
import { testKit } from '../../test/kit';
import { randomStep } from '../../test/recipes';
import { matched } from '../form/budget/matched';
import { solveBudget } from '../form/budget/solve';
import { type Adaptive, allowedCount } from '../form/step';
import { random } from '../maths/random';
import { triangleCount } from '../mesh/polymesh';
import { applyCommand } from './commands';
import type { AssetDocument } from './document';
import { formAsset } from './form';
import { budgetProblem, measuredFrom, sameLook, solveAsset } from './solve';

/** A small recipe of one to three makers that leave few counts to the solver. */
function smallRecipe(next: () => number): AssetDocument {
  const kinds = ['turned', 'bar', 'panel', 'box', 'prism'] as const;
  const parts = Array.from({ length: 1 + Math.floor(2 * next()) }, (_, i) =>
    part(`p${i}`, [{ ...randomStep(next, kinds[Math.floor(kinds.length * next())]), id: `s${i}`, enabled: true }]),
  );
  return asset(parts);
}

/** The least worst error any counts reach within a limit, by trying each count at every value that can matter. */
function exhaustive(document: AssetDocument, limit: number): number | null {
  const problem = budgetProblem(document);
  const values = problem.adaptive.map((a) => {
    const list: number[] = [];
    for (let n = allowedCount(a, a.minimum); list.length < 60 && n < 400; n = allowedCount(a, n + 1)) list.push(n);
    return list;
  });
  let best: number | null = null;
  const counts: Record<string, number> = {};
  const walk = (i: number): void => {
    if (i === problem.adaptive.length) {
      if (problem.triangles((a) => counts[a.key]) > limit) return;
      const worst = Math.max(0, ...problem.adaptive.map((a) => a.errorMm(counts[a.key])));
      if (best === null || worst < best) best = worst;
      return;
    }
    const a = problem.adaptive[i];
    for (const n of values[i]) {
      counts[a.key] = n;
      // The others at their fewest are too many already: more of this one is no better.
      if (problem.triangles((x) => (problem.adaptive.indexOf(x) <= i ? counts[x.key] : allowedCount(x, x.minimum))) > limit) break;
      walk(i + 1);
    }
  };
  walk(0);
  return best;
}

describe('the solver on recipes', () => {
  it('finds nothing worse than exhaustive search on 50 small ones', () => {
    const next = random(2026);
    let tried = 0;
    while (tried < 50) {
      const document = smallRecipe(next);
      const { adaptive } = budgetProblem(document);
      if (adaptive.length === 0 || adaptive.length > 3) continue;
      const fewest = budgetProblem(document).triangles((a) => allowedCount(a, a.minimum));
      const limit = Math.floor(fewest * (1 + 2 * next()) + 40 * next());
      const best = exhaustive(document, limit);
      const found = solveAsset(document, {}, limit);
      if (best === null) expect(found.fits).toBe(false);
      else {
        expect(found.fits).toBe(true);
        expect(found.worstMm).toBeLessThanOrEqual(best * (1 + 1e-9) + 1e-12);
        // And what was reckoned is what is formed.
        const formed = formAsset({ ...document, form: { ...document.form, counts: found.counts } }, 'low', none);
        expect(formed.problems).toEqual([]);
        expect(formed.parts.reduce((n, p) => n + triangleCount(p.mesh) * p.placements.length, 0)).toBe(found.triangles);
        expect(found.triangles).toBeLessThanOrEqual(limit);
      }
      tried++;
    }
  });
  it('never has a larger worst error with more triangles, and says what a tenth more buys', () => {
    const next = random(7);
    for (let i = 0; i < 20; i++) {
      const document = smallRecipe(next);
      let last = Infinity;
      for (const limit of [400, 440, 800, 1600, 3200]) {
        const found = solveAsset(document, {}, limit);
        if (!found.fits) continue;
        expect(found.worstMm).toBeLessThanOrEqual(last + 1e-12);
        expect(found.tenthMoreMm).toBeLessThanOrEqual(found.worstMm + 1e-12);
        expect(found.outlineMm).toBeGreaterThanOrEqual(found.worstMm - 1e-12);
        expect(found.outlineMm).toBeLessThanOrEqual(2 * found.worstMm + 1e-12);
        last = found.worstMm;
      }
    }
  });
});

describe('shares', () => {
  const pair = () => {
    const next = random(11);
    return asset([part('a', [{ ...randomStep(next, 'turned'), id: 'sa' }]), part('b', [{ ...randomStep(next, 'bar'), id: 'sb' }])]);
  };
  it('pinned to a part are kept, and the rest is spent on the others', () => {
    const document = pair();
    const free = solveAsset(document, {}, 3000);
    const own = budgetProblem({ ...document, parts: [document.parts[0]] });
    const pinned = applyCommand(document, { type: 'form.share', part: 'a', triangles: 600 }).document;
    const found = solveAsset(pinned, {}, 3000);
    const of = (counts: Record<string, number>) => own.triangles((a) => counts[a.key]);
    expect(of(found.counts)).toBeLessThanOrEqual(600);
    expect(of(found.counts)).toBeGreaterThan(500);
    expect(found.triangles).toBeLessThanOrEqual(3000);
    expect(found.triangles).toBeGreaterThan(2800);
    expect(found.counts).not.toEqual(free.counts);
    const again = applyCommand(pinned, { type: 'form.share', part: 'a', triangles: null }).document;
    expect(solveAsset(again, {}, 3000).counts).toEqual(free.counts);
  });
  it('that come to more than the limit are refused in a sentence', () => {
    const document = applyCommand(pair(), { type: 'form.share', part: 'a', triangles: 5000 }).document;
    expect(() => solveAsset(document, {}, 3000)).toThrow(/come to 5.000 triangles/);
  });
  it('go with their part', () => {
    const document = applyCommand(pair(), { type: 'form.share', part: 'a', triangles: 500 }).document;
    expect(applyCommand(document, { type: 'part.remove', part: 'a' }).document.form.shares).toEqual({});
  });
});

describe('ties', () => {
  const count = (key: string, radius: number, minimum = 3, every = 1): Adaptive => ({
    key,
    label: key,
    minimum,
    every,
    errorMm: (n) => radius * (1 - Math.cos(Math.PI / n)),
    countFor: (e) => Math.ceil(Math.PI / Math.acos(Math.max(-1, 1 - e / radius)) - 1e-9),
  });
  it('keep counts equal, at multiples that suit each, and the larger error decides', () => {
    const next = random(3);
    for (let i = 0; i < 50; i++) {
      const adaptive = [count('rim', 4 + 20 * next(), 3, 2), count('handle', 4 + 20 * next(), 5, 3), count('other', 4 + 20 * next())];
      const problem = {
        adaptive,
        triangles: (c: (a: Adaptive) => number) => adaptive.reduce((n, a, k) => n + (k + 2) * c(a), 0),
        limit: 80 + Math.floor(200 * next()),
      };
      const { problem: one, spread } = matched(problem, [['rim', 'handle']]);
      const counts = spread(solveBudget(one).counts);
      expect(counts.rim).toBe(counts.handle);
      expect(counts.rim % 6).toBe(0);
      expect(counts.rim).toBeGreaterThanOrEqual(6);
      // No equal pair with any third count does better.
      let best = Infinity;
      for (let n = 6; n < 200; n += 6)
        for (let m = 3; m < 200; m++)
          if (5 * n + 4 * m <= problem.limit)
            best = Math.min(best, Math.max(adaptive[0].errorMm(n), adaptive[1].errorMm(n), adaptive[2].errorMm(m)));
      if (best < Infinity) expect(Math.max(...adaptive.map((a) => a.errorMm(counts[a.key])))).toBeLessThanOrEqual(best + 1e-9);
    }
  });
  it('are made, joined and undone by commands', () => {
    let d = asset([]);
    const tie = (key: string, to: string | null) => {
      d = applyCommand(d, { type: 'form.tie', key, label: key, to }).document;
    };
    tie('a', 'b');
    expect(d.form.ties).toEqual([['b', 'a']]);
    tie('c', 'a');
    expect(d.form.ties).toEqual([['b', 'a', 'c']]);
    tie('a', null);
    expect(d.form.ties).toEqual([['b', 'c']]);
    tie('c', null);
    expect(d.form.ties).toEqual([]);
  });
});

describe('fewer that look the same', () => {
  it('says how few keep every error within what may show, and that no fewer would; the rivets are what spends the most', async () => {
    const kit = await testKit();
    const chest = keepersChest();
    const solved = { ...chest, form: { ...chest.form, counts: solveAsset(chest).counts } };
    const { parts, steps } = formAsset(solved, 'low', none, undefined, kit);
    const rows = parts.map((p) => ({ id: p.id, triangles: triangleCount(p.mesh), copies: p.placements.length }));
    const now = new Map(rows.map((r) => [r.id, r.triangles * r.copies]));
    const measured = measuredFrom(solved, rows, steps);
    const { adaptive } = budgetProblem(solved, measured);
    for (const tolerance of [0.3, 0.8]) {
      const same = sameLook(solved, tolerance, measured, now);
      if (!same) throw new Error('The chest is spent to its limit.');
      expect(same.worstMm).toBeLessThanOrEqual(tolerance);
      expect(same.triangles).toBeLessThan([...now.values()].reduce((n, x) => n + x, 0));
      for (const a of adaptive) {
        const n = allowedCount(a, same.counts[a.key]);
        expect(a.errorMm(n)).toBeLessThanOrEqual(tolerance);
        if (solved.form.locks[a.key] === undefined && n > allowedCount(a, a.minimum) && !solved.form.ties?.some((t) => t.includes(a.key)))
          expect(a.errorMm(n - (a.every ?? 1))).toBeGreaterThan(tolerance);
      }
      // What is made with those counts has that many triangles.
      const again = formAsset({ ...solved, form: { ...solved.form, counts: same.counts } }, 'low', none, undefined, kit).parts;
      const made = again.reduce((n, p) => n + triangleCount(p.mesh) * p.placements.length, 0);
      expect(Math.abs(made / same.triangles - 1)).toBeLessThan(0.08);
      const saved = (id: string) =>
        (now.get(id) ?? 0) - again.filter((p) => p.id === id).reduce((n, p) => n + triangleCount(p.mesh) * p.placements.length, 0);
      for (const p of parts) expect(saved(same.most.part)).toBeGreaterThanOrEqual(saved(p.id) - 40);
    }
  });
  it('is silent where nothing worth a word is saved', () => {
    const { parts, steps } = formAsset(keepersChest(), 'low', none);
    const rows = parts.map((p) => ({ id: p.id, triangles: triangleCount(p.mesh), copies: p.placements.length }));
    expect(
      sameLook(keepersChest(), 1e-4, measuredFrom(keepersChest(), rows, steps), new Map(rows.map((r) => [r.id, r.triangles * r.copies]))),
    ).toBeNull();
  });
});
