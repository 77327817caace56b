import { figure, millimetres } from '../../units/lengths';
import { type Equation, type System, systemOf } from './equations';
import { CONSTRAINTS, type Constraint, type Sketch } from './sketch';

/** What came of a sketch. */
export interface Solved {
  /** With its points and radii where the constraints want them. */
  sketch: Sketch;
  /** Everything that isn't in conflict holds. */
  solved: boolean;
  /** Ways in which it can still move. */
  free: number;
  /** Points that can still move, and circles whose radius can. */
  loose: string[];
  /** Constraints that say nothing new: holding already because of `because`. */
  redundant: Clash[];
  /** Constraints that can't hold together with `because`; left out, and said. */
  conflicts: Clash[];
}
/** A constraint that can’t be kept, and the ids of those it contradicts. */
export interface Clash {
  constraint: string;
  because: string[];
}

/** Residuals count as met below this, mm. */
export const MET = 1e-8;
/** A row that leaves less than this of itself beside the others is dependent on them. */
const DEPENDENT = 1e-7;
/** A dragged point is this much harder to move than the others. */
const HELD = 1e6;

/**
 * Brings a sketch to where its constraints hold, moving as little as possible, and says how far it is determined.
 *
 * Damped Gauss–Newton (Levenberg 1944, Marquardt 1963) on the residuals, each step the shortest one; rank, free degrees and
 * dependent constraints by orthogonalising the rows of the derivative in order (modified Gram–Schmidt, twice), so that of
 * two constraints that say the same the later one is named.
 *
 * @param drag a point and where a hand wants it; it gets as near as the constraints let it
 */
export function solveSketch(sketch: Sketch, drag?: { point: string; x: number; y: number }): Solved {
  const system = systemOf(sketch);
  const weights = new Float64Array(system.x.length).fill(1);
  if (drag) {
    const at = system.ofPoint.get(drag.point);
    if (at !== undefined && system.loose[at]) {
      system.x[at] = drag.x;
      system.x[at + 1] = drag.y;
      weights[at] = weights[at + 1] = 1 / HELD;
    }
  }
  let equations = system.equations;
  const conflicts: Clash[] = [];
  let met = relax(system, equations, weights);
  for (let round = 0; !met && round < 8; round++) {
    // What can't be met and depends on the rest is in conflict with it; the rest is tried without.
    const { dependent } = rankOf(system, equations);
    const clash = dependent.filter((d) => d.equation.constraint && Math.abs(d.equation.value(system.x)) > MET);
    if (clash.length === 0) break;
    for (const { equation, because } of clash) {
      const id = equation.constraint?.id ?? '';
      if (!conflicts.some((c) => c.constraint === id)) conflicts.push({ constraint: id, because });
    }
    equations = equations.filter((e) => !conflicts.some((c) => c.constraint === e.constraint?.id));
    system.x.set(systemOf(sketch).x);
    met = relax(system, equations, weights);
  }
  const { rank, basis, dependent } = rankOf(system, equations);
  const redundant = redundantOf(equations, dependent);
  const movable = system.loose.reduce((n, l) => n + l, 0);
  return {
    sketch: written(sketch, system),
    solved: met,
    free: movable - rank,
    loose: looseOf(sketch, system, basis),
    redundant,
    conflicts,
  };
}

/** Moves the unknowns until every equation holds. @returns whether they do */
function relax(system: System, equations: readonly Equation[], weights: Float64Array): boolean {
  const { x } = system;
  const m = equations.length;
  if (m === 0) return true;
  let r = residuals(equations, x);
  let damping = 1e-10;
  for (let round = 0; round < 120 && worst(r) > MET * 0.01; round++) {
    const rows = derivative(system, equations);
    const normal = normalMatrix(rows, weights, system);
    const scale = normal.reduce((s, row, i) => Math.max(s, row[i]), 1e-30);
    let better = false;
    for (let tries = 0; tries < 14; tries++) {
      const y = choleskySolve(normal, r, damping * scale);
      const next = Float64Array.from(x);
      if (y) for (let i = 0; i < m; i++) for (const [j, d] of rows[i]) if (system.loose[j]) next[j] -= weights[j] * d * y[i];
      const rNext = residuals(equations, next);
      if (y && squared(rNext) < squared(r)) {
        x.set(next);
        r = rNext;
        damping = Math.max(damping / 10, 1e-14);
        better = true;
        break;
      }
      damping = Math.max(damping * 10, 1e-12);
      if (damping > 1e6) break;
    }
    if (!better) break;
  }
  return worst(r) <= MET;
}

const residuals = (equations: readonly Equation[], x: Float64Array): Float64Array => Float64Array.from(equations, (e) => e.value(x));
const worst = (r: Float64Array): number => r.reduce((w, v) => Math.max(w, Math.abs(v)), 0);
const squared = (r: Float64Array): number => r.reduce((s, v) => s + v * v, 0);

/** Rows of the derivative as unknown → slope, by central differences over each equation's own unknowns. */
function derivative(system: System, equations: readonly Equation[]): Map<number, number>[] {
  const { x, loose } = system;
  return equations.map((e) => {
    const row = new Map<number, number>();
    for (const j of e.unknowns) {
      if (!loose[j]) continue;
      const [was, h] = [x[j], 1e-5 * Math.max(1, Math.abs(x[j]))];
      x[j] = was + h;
      const up = e.value(x);
      x[j] = was - h;
      const down = e.value(x);
      x[j] = was;
      const d = (up - down) / (2 * h);
      if (Math.abs(d) > 1e-10) row.set(j, d);
    }
    return row;
  });
}

/** J·W·Jᵀ. */
function normalMatrix(rows: readonly Map<number, number>[], weights: Float64Array, system: System): Float64Array[] {
  const m = rows.length;
  const out = Array.from({ length: m }, () => new Float64Array(m));
  for (let i = 0; i < m; i++)
    for (let k = 0; k <= i; k++) {
      let s = 0;
      const [small, large] = rows[i].size <= rows[k].size ? [rows[i], rows[k]] : [rows[k], rows[i]];
      for (const [j, d] of small) if (system.loose[j]) s += weights[j] * d * (large.get(j) ?? 0);
      out[i][k] = out[k][i] = s;
    }
  return out;
}

/** (A + λ)·y = b for a symmetric A by Cholesky; null when it isn't positive. */
function choleskySolve(a: readonly Float64Array[], b: Float64Array, lambda: number): Float64Array | null {
  const n = b.length;
  const l = Array.from({ length: n }, () => new Float64Array(n));
  for (let i = 0; i < n; i++)
    for (let k = 0; k <= i; k++) {
      let s = a[i][k] + (i === k ? lambda : 0);
      for (let j = 0; j < k; j++) s -= l[i][j] * l[k][j];
      if (i !== k) l[i][k] = s / l[k][k];
      else if (s <= 0) return null;
      else l[i][i] = Math.sqrt(s);
    }
  const y = Float64Array.from(b);
  for (let i = 0; i < n; i++) {
    for (let j = 0; j < i; j++) y[i] -= l[i][j] * y[j];
    y[i] /= l[i][i];
  }
  for (let i = n - 1; i >= 0; i--) {
    for (let j = i + 1; j < n; j++) y[i] -= l[j][i] * y[j];
    y[i] /= l[i][i];
  }
  return y;
}

interface Dependent {
  equation: Equation;
  /** Ids of the constraints it follows from. */
  because: string[];
}

/**
 * Rank of the derivative, an orthonormal basis of its rows, and the rows that depend on earlier ones with what they follow
 * from: of row d = Σ cₖ·qₖ and earlier rows rᵢ = Σ Rᵢₖ·qₖ, the α of d = Σ αᵢ·rᵢ come by substitution from the last.
 */
function rankOf(system: System, equations: readonly Equation[]): { rank: number; basis: Float64Array[]; dependent: Dependent[] } {
  const n = system.x.length;
  const rows = derivative(system, equations);
  const basis: Float64Array[] = [];
  const kept: { equation: Equation; r: Float64Array }[] = [];
  const dependent: Dependent[] = [];
  for (let i = 0; i < rows.length; i++) {
    const v = new Float64Array(n);
    for (const [j, d] of rows[i]) v[j] = d;
    const long = Math.sqrt(squared(v));
    const c = new Float64Array(basis.length + 1);
    for (let pass = 0; pass < 2; pass++)
      for (const [k, q] of basis.entries()) {
        let s = 0;
        for (let j = 0; j < n; j++) s += q[j] * v[j];
        c[k] += s;
        for (let j = 0; j < n; j++) v[j] -= s * q[j];
      }
    const left = Math.sqrt(squared(v));
    if (left > DEPENDENT * Math.max(long, 1e-6)) {
      c[basis.length] = left;
      basis.push(v.map((x) => x / left));
      kept.push({ equation: equations[i], r: c });
      continue;
    }
    const rest = c.slice();
    const because = new Set<string>();
    for (let k = kept.length - 1; k >= 0; k--) {
      const share = rest[k] / kept[k].r[k];
      if (Math.abs(share) < 1e-6) continue;
      for (let j = 0; j <= k; j++) rest[j] -= share * kept[k].r[j];
      const id = kept[k].equation.constraint?.id;
      if (id !== undefined && id !== equations[i].constraint?.id) because.add(id);
    }
    dependent.push({ equation: equations[i], because: [...because] });
  }
  return { rank: basis.length, basis, dependent };
}

/** A constraint is redundant when every equation of it is dependent. */
function redundantOf(equations: readonly Equation[], dependent: readonly Dependent[]): Clash[] {
  const out: Clash[] = [];
  for (const k of new Set(dependent.map((d) => d.equation.constraint))) {
    if (!k) continue;
    const mine = dependent.filter((d) => d.equation.constraint === k);
    if (mine.length === equations.filter((e) => e.constraint === k).length)
      out.push({ constraint: k.id, because: [...new Set(mine.flatMap((d) => d.because))] });
  }
  return out;
}

/** What a motion that breaks nothing can move: unknowns whose own direction isn't all in the rows' space. */
function looseOf(sketch: Sketch, system: System, basis: readonly Float64Array[]): string[] {
  const moves = (j: number) => system.loose[j] === 1 && 1 - basis.reduce((s, q) => s + q[j] * q[j], 0) > 1e-6;
  return [
    ...sketch.points.filter((p) => {
      const at = system.ofPoint.get(p.id) as number;
      return moves(at) || moves(at + 1);
    }),
    ...sketch.curves.filter((c) => c.kind === 'circle' && moves(system.ofRadius.get(c.id) as number)),
  ].map((o) => o.id);
}

function written(sketch: Sketch, system: System): Sketch {
  return {
    ...sketch,
    points: sketch.points.map((p) => {
      const at = system.ofPoint.get(p.id) as number;
      return { ...p, x: system.x[at], y: system.x[at + 1] };
    }),
    curves: sketch.curves.map((c) => (c.kind === 'circle' ? { ...c, radius: Math.abs(system.x[system.ofRadius.get(c.id) as number]) } : c)),
  };
}

/** A constraint in a few words: `distance 12 mm, wall and rim`. */
export function constraintWords(sketch: Sketch, k: Constraint): string {
  const name = (id: string | undefined): string | undefined => {
    if (id === undefined) return undefined;
    const c = sketch.curves.find((x) => x.id === id);
    if (c) return c.name;
    const i = sketch.points.findIndex((p) => p.id === id);
    return i < 0 ? 'something missing' : `point ${i + 1}`;
  };
  const figures = k.mm !== undefined ? ` ${millimetres(k.mm)}` : k.degrees !== undefined ? ` ${figure(k.degrees)}°` : '';
  return `${CONSTRAINTS[k.kind].name}${figures}, ${[name(k.one), name(k.two), name(k.three)].filter(Boolean).join(' and ')}`;
}

/** What is wrong with a sketch, one sentence for each constraint in conflict or without effect. */
export function clashWords(sketch: Sketch, solved: Solved): { constraint: string; conflict: boolean; message: string }[] {
  const words = (id: string) => {
    const k = sketch.constraints.find((c) => c.id === id);
    return k ? `“${constraintWords(sketch, k)}”` : 'a constraint';
  };
  const because = (c: Clash) => (c.because.length > 0 ? c.because.slice(0, 3).map(words).join(', ') : 'what is fixed');
  return [
    ...solved.conflicts.map((c) => ({
      constraint: c.constraint,
      conflict: true,
      message: `${words(c.constraint)} can’t hold together with ${because(c)}.`,
    })),
    ...solved.redundant.map((c) => ({
      constraint: c.constraint,
      conflict: false,
      message: `${words(c.constraint)} says nothing new: it follows from ${because(c)}.`,
    })),
  ];
}
