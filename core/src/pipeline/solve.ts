import { InputError } from '../errors';
import { matched } from '../form/budget/matched';
import { type Budget, type BudgetProblem, type Counts, countsAt, outlineOf, solveBudget, trianglesFor } from '../form/budget/solve';
import { evaluateDimensions, resolveStep } from '../form/dimensions';
import { adaptiveOf, budgetOf, isApplied, type PartPlan } from '../form/recipe';
import { type Adaptive, allowedCount } from '../form/step';
import { kindOf, type Step } from '../form/steps';
import { triangleCount } from '../mesh/polymesh';
import type { Lookup } from '../units/formula';
import { figure } from '../units/lengths';
import { type AssetDocument, originalOf, type Part, stepsOf } from './document';
import { chosenCount, type FormResult, isStrewn } from './form';

/** Whether steps make something else of a part's triangles than its makers plan. */
const isChanged = (part: Part): boolean =>
  stepsOf(part).some((s) => s.enabled && s.in !== 'high' && (kindOf(s.kind).changer || kindOf(s.kind).fitter || isApplied(s)));

/** What forming showed of parts that their steps alone don't say: copies strewn, triangles after steps that change them. By part. */
export type Measured = Readonly<
  Record<
    string,
    {
      copies: number;
      triangles: number;
      /** Triangles for each of a count, where a step that changes the surface has one. */
      each: Record<string, number>;
    }
  >
>;
type Counted = { id: string; triangles: number; copies: number };

/** @param parts what was made, as a ledger counts it; @param steps what each step came to */
export function measuredFrom(document: AssetDocument, parts: readonly Counted[], steps: FormResult['steps']): Measured {
  const { lookup } = evaluateDimensions(document.dimensions);
  const count = chosenCount(document);
  return Object.fromEntries(
    parts.flatMap((p) => {
      const part = document.parts.find((d) => d.id === p.id);
      if (!part || !(isStrewn(part) || isChanged(part))) return [];
      const each: Record<string, number> = {};
      for (const s of stepsOf(part)) {
        const kind = kindOf(s.kind);
        const made = steps.find((r) => r.step === s.id)?.triangles ?? 0;
        if (!(kind.changer || kind.fitter) || made <= 0) continue;
        for (const a of adaptiveOf(resolveOr(s, lookup))) each[a.key] = made / allowedCount(a, count(a));
      }
      return [[p.id, { copies: p.copies, triangles: p.triangles * p.copies, each }]];
    }),
  );
}
function resolveOr(step: Step, lookup: Lookup): Step {
  try {
    return resolveStep(step, lookup);
  } catch {
    // What is wrong with a formula is said where the step is formed.
    return step;
  }
}
export const measuredOf = (document: AssetDocument, formed: Pick<FormResult, 'parts' | 'steps'>): Measured =>
  measuredFrom(
    document,
    formed.parts.map((p) => ({ id: p.id, triangles: triangleCount(p.mesh), copies: p.placements.length })),
    formed.steps,
  );
export const wantsMeasure = (document: AssetDocument): boolean => document.parts.some((p) => isStrewn(p) || isChanged(p));

/** What each part's recipe leaves to the solver. */
export function partPlans(document: AssetDocument, measured: Measured = {}): PartPlan[] {
  const { lookup } = evaluateDimensions(document.dimensions);
  const count = chosenCount(document);
  const plans = document.parts.map((p): PartPlan => {
    const known = measured[p.id];
    const plan = budgetOf(stepsOf(p), lookup, isStrewn(p) ? known?.copies : undefined);
    const { shape } = p;
    if (p.aid) return { adaptive: plan.adaptive, steps: [], triangles: () => 0 };
    if (shape.kind === 'copy') return plan;
    if (shape.kind === 'mesh') return { ...plan, triangles: () => known?.triangles ?? shape.low.triangles * shape.placements.length };
    if (!known || !isChanged(p)) return plan;
    const now = plan.triangles(count);
    const own = plan.adaptive.filter((a) => known.each[a.key] !== undefined);
    // As many times as many as its makers plan as there are now, and as many for each of a step's own count as that came to:
    // checked where the solver's counts are tried.
    const triangles: PartPlan['triangles'] = (c) => {
      const more = own.reduce((n, a) => n + known.copies * known.each[a.key] * (allowedCount(a, c(a)) - allowedCount(a, count(a))), 0);
      return Math.round((known.triangles + more) * (now > 0 ? plan.triangles(c) / now : 1));
    };
    return { ...plan, triangles };
  });
  // A copy costs what its original costs; its counts are that one's.
  return document.parts.map((p, i) => {
    const original = document.parts.indexOf(originalOf(document, p));
    return p.aid || original === i
      ? plans[i]
      : { adaptive: [], steps: [], triangles: document.parts[original].aid ? () => 0 : plans[original].triangles };
  });
}

/** The solver's problem for a whole asset: recipes are free, imports are what they are. */
export function budgetProblem(document: AssetDocument, measured: Measured = {}, limit = document.brief.limits.triangles): BudgetProblem {
  const plans = partPlans(document, measured);
  const labelled = (part: Part, a: Adaptive): Adaptive => ({ ...a, label: `${part.name}, ${a.label}` });
  return {
    adaptive: plans.flatMap((b, i) => b.adaptive.map((a) => labelled(document.parts[i], a))),
    triangles: (count) => plans.reduce((n, b) => n + b.triangles(count), 0),
    limit,
    locks: document.form.locks,
  };
}

/**
 * Spends an asset's triangles. Parts with a pinned share get that many and no more, each solved for itself; what is left is spent
 * over all the others. Counts that are tied stay equal.
 *
 * @throws InputError `solve/shares` when the pinned shares alone are over the limit
 */
export function solveAsset(document: AssetDocument, measured: Measured = {}, limit = document.brief.limits.triangles): Budget {
  const { shares = {}, ties = [] } = document.form;
  const pinned = document.parts.filter((p) => shares[p.id] !== undefined && !p.aid);
  const whole = budgetProblem(document, measured, limit);
  const solved = (problem: BudgetProblem): Budget => {
    const { problem: one, spread } = matched(problem, ties);
    const found = solveBudget(one);
    return { ...found, counts: spread(found.counts) };
  };
  if (pinned.length === 0) return solved(whole);
  const plans = partPlans(document, measured);
  const sum = pinned.reduce((n, p) => n + shares[p.id], 0);
  if (sum >= limit && pinned.length < plans.length)
    throw new InputError(
      'solve/shares',
      `The shares pinned to parts come to ${figure(sum, 0)} triangles, and the limit is ${figure(limit, 0)}.`,
    );
  const problemOf = (parts: readonly Part[], most: number): BudgetProblem => {
    const own = document.parts.flatMap((p, i) => (parts.includes(p) ? [plans[i]] : []));
    const keys = new Set(own.flatMap((o) => o.adaptive.map((a) => a.key)));
    return {
      ...whole,
      adaptive: whole.adaptive.filter((a) => keys.has(a.key)),
      triangles: (count) => own.reduce((n, o) => n + o.triangles(count), 0),
      limit: most,
    };
  };
  const each = pinned.map((p) => solved(problemOf([p], shares[p.id])));
  const used = each.reduce((n, b) => n + b.triangles, 0);
  const rest = solved(
    problemOf(
      document.parts.filter((p) => !pinned.includes(p)),
      limit - used,
    ),
  );
  const all = [...each, rest];
  const worst = all.reduce((w, b) => (b.worstMm > w.worstMm ? b : w));
  return {
    counts: Object.assign({}, ...all.map((b) => b.counts)),
    triangles: used + rest.triangles,
    worstMm: worst.worstMm,
    worstLabel: worst.worstLabel,
    outlineMm: Math.max(...all.map((b) => b.outlineMm)),
    fits: all.every((b) => b.fits),
    tenthMoreMm: Math.max(...each.map((b) => b.worstMm), rest.tenthMoreMm),
    curve: rest.curve.map((c) => ({ triangles: c.triangles + used, errorMm: c.errorMm })),
  };
}

/** Times a piece is formed to find its counts, at most. */
const FORMED = 26;
/** Tolerances that are tried stand so far apart, as a ratio: a thousandth of an error is seen by nobody. */
const FINE = 1.001;
/** After the finest that fits, so many finer ones are tried too: what steps cut and join need not rise evenly. */
const BEYOND = 2;

/**
 * Solves by forming: through steps that cut and join, the number of triangles is known only when they are made. All counts follow from one
 * tolerance; the finest of which what is really made fits is found by doubling and halving, so that more triangles are never worse
 * (within {@link FINE}). What is left then goes where it lowers other errors, as long as that fits too.
 *
 * @param formed parts of the asset with other counts
 */
export function solveFormed(
  document: AssetDocument,
  formed: (with_: AssetDocument) => Pick<FormResult, 'parts' | 'steps'>,
  limit = document.brief.limits.triangles,
): Budget {
  if (!wantsMeasure(document)) return solveAsset(document, {}, limit);
  const { shares = {}, ties = [] } = document.form;
  const whole = budgetProblem(document, {}, limit);
  const { problem, spread } = matched(whole, ties);
  let left = FORMED;
  const make = (counts: Counts) => {
    left--;
    const at = { ...document, form: { ...document.form, counts } };
    const result = formed(at);
    const triangles = result.parts.reduce((n, p) => n + triangleCount(p.mesh) * p.placements.length, 0);
    return { at, counts, triangles, measured: measuredOf(at, result) };
  };
  const first = measuredOf(document, formed(document));
  const guess = solveAsset(document, first, limit);
  // Parts with shares of their own keep them: they are solved each for itself.
  const held = Object.keys(shares).length > 0 ? guess.counts : {};
  const errorAt = (k: number) => FINE ** -k;
  const known = new Map<number, ReturnType<typeof make>>();
  const tried = (k: number) => {
    let made = known.get(k);
    if (!made) {
      const counts = spread(countsAt(problem, errorAt(k)));
      // Tolerances between which no count changes make the same piece.
      const same = [...known.values()].find((m) => Object.keys(counts).every((key) => m.counts[key] === (pinnedTo(key) ?? counts[key])));
      made = same ?? make({ ...counts, ...Object.fromEntries(Object.entries(held).filter(([key]) => pinnedTo(key) !== undefined)) });
      known.set(k, made);
    }
    return made;
  };
  const pinnedKeys = new Set(document.parts.filter((p) => shares[p.id] !== undefined).flatMap((p) => stepsOf(p).map((s) => s.id)));
  const pinnedTo = (key: string): number | undefined => (pinnedKeys.has(key.split('.')[0]) ? held[key] : undefined);
  const fits = (k: number) => tried(k).triangles <= limit;
  let [yes, no] = [-Infinity, Infinity];
  const [COARSEST, FINEST] = [-Math.log(1e3) / Math.log(FINE), Math.log(1e5) / Math.log(FINE)].map(Math.round);
  let k = Math.round(-Math.log(Math.max(1e-5, guess.worstMm || 1e-5)) / Math.log(FINE));
  for (let step = 16; left > 4 && (yes === -Infinity || no === Infinity); step *= 2) {
    k = Math.min(FINEST, Math.max(COARSEST, k));
    if (fits(k)) yes = Math.max(yes, k);
    else no = Math.min(no, k);
    if (yes === FINEST || no === COARSEST) break;
    k = yes === -Infinity ? k - step : k + step;
  }
  while (left > 4 && no - yes > 1 && Number.isFinite(no - yes)) {
    const middle = Math.floor((yes + no) / 2);
    if (fits(middle)) yes = middle;
    else no = middle;
  }
  for (let more = 1; left > 4 && more <= BEYOND && Number.isFinite(yes); more++) if (fits(yes + more)) yes += more;
  const base = tried(Number.isFinite(yes) ? yes : COARSEST);
  const worstOf = (counts: Counts) => Math.max(0, ...whole.adaptive.map((a) => a.errorMm(allowedCount(a, counts[a.key] ?? a.minimum))));
  let best = base;
  // What is left goes where it still lowers an error; what turns out too much is taken off the next aim.
  let aim = limit;
  const pinned = Object.values(shares).reduce((n, x) => n + x, 0);
  while (left > 0 && base.triangles <= limit && aim > pinned) {
    const next = make(solveAsset(best.at, best.measured, aim).counts);
    const better = next.triangles <= limit && next.triangles > best.triangles && worstOf(next.counts) <= worstOf(best.counts) * (1 + 1e-9);
    if (better) best = next;
    else if (next.triangles > limit) aim -= next.triangles - limit;
    else break;
  }
  const told = solveAsset(best.at, best.measured, limit);
  const worst = whole.adaptive.reduce<Adaptive | undefined>(
    (w, a) => (!w || a.errorMm(best.counts[a.key]) > w.errorMm(best.counts[w.key]) ? a : w),
    undefined,
  );
  return {
    ...told,
    counts: best.counts,
    triangles: best.triangles,
    worstMm: worstOf(best.counts),
    worstLabel: worst?.label ?? '',
    outlineMm: outlineOf(whole, best.counts),
    fits: best.triangles <= limit,
    tenthMoreMm: Math.min(told.tenthMoreMm, worstOf(best.counts)),
  };
}

/** The triangles, and the counts, that keep every error below a tolerance, mm. */
export function trianglesAtTolerance(document: AssetDocument, errorMm: number, measured?: Measured): { counts: Counts; triangles: number } {
  return trianglesFor({ ...budgetProblem(document, measured), locks: undefined }, errorMm);
}

/** Fewer triangles that look the same: how many, with which counts, and where most of them are saved. */
export interface SameLook {
  triangles: number;
  counts: Counts;
  /** The largest error then, mm. */
  worstMm: number;
  /** The part that spends the most beyond it: its triangles now and later, and how far off it is then, mm. */
  most: { part: string; now: number; later: number; errorMm: number };
}

/** What has to be saved, as a share of what there is, to be worth a word. */
const WORTH = 0.05;

/**
 * The least counts whose errors all stay within what the brief lets show, where that is fewer than what is there: a limit is no target.
 *
 * @param now triangles of each part as formed, copies counted
 * @returns null where nothing worth a word could be saved
 */
export function sameLook(document: AssetDocument, errorMm: number, measured: Measured, now: ReadonlyMap<string, number>): SameLook | null {
  const problem = budgetProblem(document, measured);
  const { problem: tied, spread } = matched(problem, document.form.ties ?? []);
  const counts = spread(countsAt(tied, errorMm));
  const count = (a: Adaptive): number => counts[a.key] ?? a.minimum;
  const before = [...now.values()].reduce((n, x) => n + x, 0);
  const plans = partPlans(document, measured);
  const later = plans.map((p) => p.triangles(count));
  const triangles = later.reduce((n, x) => n + x, 0);
  if (!(triangles < before * (1 - WORTH))) return null;
  const worstOf = (list: readonly Adaptive[]): number => Math.max(0, ...list.map((a) => a.errorMm(allowedCount(a, count(a)))));
  const saved = document.parts.map((p, i) => ({
    part: p.id,
    now: now.get(p.id) ?? 0,
    later: later[i],
    errorMm: worstOf(plans[i].adaptive),
  }));
  const most = saved.reduce((best, s) => (s.now - s.later > best.now - best.later ? s : best));
  return { triangles, counts: { ...document.form.counts, ...counts }, worstMm: worstOf(problem.adaptive), most };
}
