import { FormError } from '../../errors';
import { add, cross, normalise, scale, type Vec3 } from '../../maths/vec3';
import type { PolyMesh } from '../../mesh/polymesh';
import { figure, millimetres } from '../../units/lengths';
import { balancedScale } from '../budget/chord';
import { type Curve, isSharp, pointAt } from '../curves';
import { length, plain, size } from '../fields';
import { loft } from '../loft';
import { type Chain, outlinesOf, pathOf } from '../sketch/chains';
import { SKETCH_FIELDS, type Sketch } from '../sketch/sketch';
import { type Adaptive, countOf, type Detail, type Maker, type StepBase, type StepKind } from '../step';
import { type Spacing, spacingOf } from '../sweep/spacing';

/** What the section is at a place along the piece. */
export interface BladeStation {
  id: string;
  /** mm along x from where the plan begins. */
  at: number;
  /** Full thickness there, mm. */
  thickness: number;
  /** Exponent of the superellipse |x/a|ⁿ + |y/b|ⁿ = 1: 2 is an oval, larger is squarer. */
  squareness: number;
}

/**
 * A plan outline cut with a side curve, filled by sections that stand square to the curve: blades, paddles, grips. The plan is
 * drawn from above (across is x, up is −z), the side from the front (x and y). Lengths in mm.
 */
export interface BladeStep extends StepBase {
  kind: 'blade';
  plan: Sketch;
  side: Sketch;
  stations: BladeStation[];
}

interface Shape {
  x0: number;
  x1: number;
  /** Edges of the plan at x. */
  plan(x: number): [number, number];
  /** Middle line at x, and its slope. */
  side(x: number): [number, number];
  at(x: number): { thickness: number; squareness: number };
  /** Where sections have to stand besides both ends: at sharp corners of the plan, on both sides of a step. */
  corners: number[];
  widest: number;
}

/** Where a vertical line meets a chain of curves, sorted. */
function crossings(curves: readonly Curve[], x: number): number[] {
  const out: number[] = [];
  for (const c of curves) {
    if (c.kind === 'line') {
      const [p, q] = c.a[0] <= c.b[0] ? [c.a, c.b] : [c.b, c.a];
      if (q[0] - p[0] < 1e-12 || x < p[0] - 1e-9 || x > q[0] + 1e-9) continue;
      out.push(p[1] + ((x - p[0]) / (q[0] - p[0])) * (q[1] - p[1]));
      continue;
    }
    const across = x - c.centre[0];
    if (Math.abs(across) > c.radius + 1e-9) continue;
    const h = Math.sqrt(Math.max(0, c.radius ** 2 - across ** 2));
    const from = Math.atan2(c.a[1] - c.centre[1], c.a[0] - c.centre[0]);
    for (const s of [1, -1]) {
      let turn = Math.atan2(s * h, across) - from;
      turn -= 2 * Math.PI * Math.floor(turn / (2 * Math.PI));
      if (c.sweep < 0 && turn > 1e-9) turn -= 2 * Math.PI;
      if (turn / c.sweep <= 1 + 1e-9 || Math.abs(Math.abs(turn) - 2 * Math.PI) < 1e-9) out.push(c.centre[1] + s * h);
    }
  }
  return out.sort((a, b) => a - b);
}

/** @throws FormError `blade/notches` where a plan turns back on itself: sections run from edge to edge, what lies between would be filled */
function leadsOn({ curves, names }: Chain, step: string): void {
  // Going round, the way along x turns twice: at the tip and at the root.
  const ways = curves
    .flatMap((c, i) => {
      const n = c.kind === 'line' ? 1 : 24;
      return Array.from({ length: n }, (_, k) => ({
        dx: pointAt(c, (k + 1) / n)[0] - pointAt(c, k / n)[0],
        at: pointAt(c, k / n),
        name: names[i],
      }));
    })
    .filter((w) => Math.abs(w.dx) > 1e-9);
  const turns = ways.filter((w, i) => w.dx * ways[(i + 1) % ways.length].dx < 0);
  if (turns.length <= 2) return;
  // Neither tip nor root: whichever turn lies farthest from both ends.
  const xs = ways.map((w) => w.at[0]);
  const [x0, x1] = [Math.min(...xs), Math.max(...xs)];
  const inner = turns.reduce((best, t) => (Math.min(t.at[0] - x0, x1 - t.at[0]) > Math.min(best.at[0] - x0, x1 - best.at[0]) ? t : best));
  throw new FormError(
    'blade/notches',
    `The plan of “${step}” turns back on itself at “${inner.name}” near ${millimetres(inner.at[0], 1)}, ${millimetres(inner.at[1], 1)}, as notches do: a blade is filled from edge to edge. Cut it with another part.`,
  );
}

/** Sharp corners of a plan between its ends; a step straight across has a place just before it and one just after. */
function cornersOf(curves: readonly Curve[], x0: number, x1: number): number[] {
  const beside = (x1 - x0) * BESIDE;
  const out: number[] = [];
  for (const [i, c] of curves.entries()) {
    const before = curves[(i + curves.length - 1) % curves.length];
    const upright = (d: Curve) => d.kind === 'line' && Math.abs(d.a[0] - d.b[0]) < 1e-9;
    if (!isSharp(before, c)) continue;
    if (upright(before) || upright(c)) out.push(c.a[0] - beside, c.a[0] + beside);
    else out.push(c.a[0]);
  }
  const sorted = out.filter((x) => x > x0 + 2 * beside && x < x1 - 2 * beside).sort((p, q) => p - q);
  return sorted.filter((x, i) => i === 0 || x - sorted[i - 1] > beside / 2);
}
/** Share of the length by which rows stand beside a step. */
const BESIDE = 1e-6;

/** @throws FormError `blade/…` */
function shapeOf(step: BladeStep): Shape {
  const { outer } = outlinesOf(step.plan, step.name);
  leadsOn(outer, step.name);
  const side = pathOf(step.side, step.name);
  const all = outer.curves.flatMap((c) => Array.from({ length: 17 }, (_, i) => pointAt(c, i / 16)));
  const [x0, x1] = [Math.min(...all.map((p) => p[0])), Math.max(...all.map((p) => p[0]))];
  const sorted = [...step.stations].sort((a, b) => a.at - b.at);
  if (sorted.length < 2) throw new FormError('blade/stations', `“${step.name}” needs at least two stations.`);
  const sidePoints = side.curves.flatMap((c) => [c.a, c.b]);
  const [s0, s1] = [Math.min(...sidePoints.map((p) => p[0])), Math.max(...sidePoints.map((p) => p[0]))];
  if (s0 > x0 + 1e-6 || s1 < x1 - 1e-6)
    throw new FormError(
      'blade/side',
      `The side curve of “${step.name}” runs from ${figure(s0)} to ${millimetres(s1)}; the plan needs it from ${figure(x0)} to ${millimetres(x1)}.`,
    );
  const middle = (x: number): number => {
    const ys = crossings(side.curves, Math.min(s1, Math.max(s0, x)));
    if (ys.length === 0 || ys[ys.length - 1] - ys[0] > 1e-6)
      throw new FormError(
        'blade/side',
        `The side curve of “${step.name}” turns back on itself near ${millimetres(x)}; it has to run along without doubling.`,
      );
    return ys[0];
  };
  const h = (x1 - x0) * 1e-5;
  return {
    x0,
    x1,
    plan(x) {
      const zs = crossings(outer.curves, x);
      return zs.length < 2 ? [0, 0] : [zs[0], zs[zs.length - 1]];
    },
    side(x) {
      const [a, b] = [Math.max(x0, x - h), Math.min(x1, x + h)];
      return [middle(x), (middle(b) - middle(a)) / (b - a)];
    },
    at(x) {
      const along = x - x0;
      const i = sorted.findIndex((s) => s.at >= along);
      if (i <= 0) return i === 0 ? sorted[0] : sorted[sorted.length - 1];
      const [p, q] = [sorted[i - 1], sorted[i]];
      // A smooth step between stations: level at each, so that no kink shows in a highlight.
      const t = (along - p.at) / Math.max(q.at - p.at, 1e-9);
      const s = t * t * (3 - 2 * t);
      return { thickness: p.thickness + s * (q.thickness - p.thickness), squareness: p.squareness + s * (q.squareness - p.squareness) };
    },
    corners: cornersOf(outer.curves, x0, x1),
    widest: Math.max(...all.map((p) => p[1])) - Math.min(...all.map((p) => p[1])),
  };
}

/**
 * Sides of an oval, even in its angle: the chord of half an angle h stands off by (1 − cos h)·ab/√(b²cos²h + a²sin²h), most beside its
 * narrow ends; from the affine image of a circle’s chord.
 */
const around = (step: BladeStep, s: Shape): Adaptive => {
  const ovals = Array.from({ length: OVALS }, (_, k) => {
    const x = s.x0 + (s.x1 - s.x0) * spaced((k + 0.5) / OVALS);
    const [left, right] = s.plan(x);
    return [(right - left) / 2, s.at(x).thickness / 2];
  }).filter(([a, b]) => a > 1e-9 && b > 1e-9);
  const errorMm = (n: number): number => {
    const [c, d] = [Math.cos(Math.PI / n), Math.sin(Math.PI / n)];
    return ovals.reduce((most, [a, b]) => Math.max(most, ((1 - c) * a * b) / Math.hypot(b * c, a * d)), 0);
  };
  return {
    key: `${step.id}.section`,
    label: 'sides of the section',
    minimum: 6,
    every: 2,
    errorMm,
    countFor(e) {
      let n = 6;
      while (n < MOST_SIDES && errorMm(n) > e) n += 2;
      return n;
    },
  };
};
const OVALS = 24;
const MOST_SIDES = 2000;

/** Parts a stretch between two corners is measured in. */
const PARTS = 96;
/** Rows along the piece: at the plan's corners, and between them by how plan edges, top and foot bend. */
function rowsOf(s: Shape): Spacing {
  const fixed = [0, ...s.corners.map((x) => placed((x - s.x0) / (s.x1 - s.x0))), 1];
  return spacingOf(fixed, (i) => {
    const parts = fixed[i + 1] - fixed[i] < 1e-5 ? 3 : PARTS;
    const h = (fixed[i + 1] - fixed[i]) / parts;
    const lines = Array.from({ length: parts }, (_, k) => {
      const x = s.x0 + (s.x1 - s.x0) * spaced(fixed[i] + (k + 0.5) * h);
      const [left, right] = s.plan(x);
      const [y] = s.side(x);
      return [left, right, y + s.at(x).thickness / 2, y - s.at(x).thickness / 2];
    });
    const out = new Float64Array(parts);
    for (let k = 1; k + 1 < parts; k++)
      for (let e = 0; e < 4; e++) out[k] = Math.max(out[k], Math.abs(lines[k + 1][e] - 2 * lines[k][e] + lines[k - 1][e]) / (h * h));
    [out[0], out[parts - 1]] = [out[1], out[parts - 2]];
    return out;
  });
}
const along = (step: BladeStep, s: Shape): Adaptive => {
  const rows = rowsOf(s);
  return {
    key: `${step.id}.rows`,
    label: 'sections along it',
    minimum: Math.max(4, rows.least),
    errorMm: (n) => rows.errorMm(n),
    countFor: (e) => Math.max(4, rows.countFor(e)),
  };
};
/** Closer together at both ends, where plans are rounded; and the other way about. */
const spaced = (t: number): number => 0.5 - 0.5 * Math.cos(Math.PI * t);
const placed = (x: number): number => Math.acos(1 - 2 * x) / Math.PI;

const maker: Maker<BladeStep> = {
  plan(step) {
    const s = shapeOf(step);
    const [n, rows] = [around(step, s), along(step, s)];
    return {
      adaptive: [n, rows],
      // Pointed ends close in a point, blunt ones with a flat face; both are counted by what is built.
      triangles: (count) => {
        const m = count(n);
        const ends = [s.x0, s.x1].reduce((sum, x) => sum + (isPoint(s, x) ? -m : m - 2), 0);
        return 2 * m * count(rows) + ends;
      },
    };
  },
  build(step, detail): PolyMesh {
    const s = shapeOf(step);
    const n = countOf(detail, around(step, s));
    const k = countOf(detail, along(step, s));
    const loops = rowsOf(s)
      .places(k)
      .map((t) => section(s, s.x0 + (s.x1 - s.x0) * spaced(t), n, detail));
    return loft({
      loops,
      ...(loops[0].length > 1 && { start: 'start' }),
      ...(loops[k].length > 1 && { end: 'end' }),
      face: (j, i) => ({
        patch: i < n / 2 ? 'upper' : 'lower',
        u: [(i % (n / 2)) / (n / 2), ((i % (n / 2)) + 1) / (n / 2)],
        v: [j / k, (j + 1) / k],
      }),
    });
  },
  /** Sections lean with the side curve: near a steep end they reach beyond the plan. */
  notes(step) {
    const s = shapeOf(step);
    const over = { mm: 0, where: [0, 0, 0] as Vec3 };
    for (let k = 0; k <= LOOKS; k++) {
      const x = s.x0 + ((s.x1 - s.x0) * k) / LOOKS;
      if (isPoint(s, x)) continue;
      const [y, slope] = s.side(x);
      const lean = ((s.at(x).thickness / 2) * Math.abs(slope)) / Math.hypot(1, slope);
      const mm = Math.max(s.x0 - (x - lean), x + lean - s.x1);
      if (mm > over.mm) Object.assign(over, { mm, where: [x, y, 0] });
    }
    if (over.mm <= OVER) return [];
    return [
      {
        code: 'blade/over',
        message: `The sections of “${step.name}” lean with its side curve: they reach ${millimetres(over.mm, 2)} beyond its plan. A sweep of sections follows a plan exactly.`,
        value: over.mm,
        limit: OVER,
        unit: 'mm',
        where: [over.where],
      },
    ];
  },
  topology: () => ({ shells: 1, genus: 0, rims: 0 }),
};

/** Places along it that are looked at. */
const LOOKS = 400;
/** How far sections may reach beyond the plan without a word, mm. */
const OVER = 0.05;

const isPoint = (s: Shape, x: number): boolean => {
  const [left, right] = s.plan(x);
  return right - left < 1e-4 * s.widest;
};

/** One section, square to the middle line, counter-clockwise about it from its far edge over the top. */
function section(s: Shape, x: number, n: number, detail: Detail): Vec3[] {
  const [left, right] = s.plan(x);
  const [y, slope] = s.side(x);
  const middle: Vec3 = [x, y, -(left + right) / 2];
  if (isPoint(s, x)) return [middle];
  const { thickness, squareness } = s.at(x);
  const tangent = normalise([1, slope, 0]);
  const across: Vec3 = [0, 0, -1];
  const up = normalise(cross(tangent, across));
  const k = detail.mesh === 'low' ? balancedScale(n) : 1;
  // Across it the section ends on the plan; up and down it is balanced.
  const [a, b] = [(right - left) / 2, (thickness / 2) * k];
  const power = (v: number) => Math.sign(v) * Math.abs(v) ** (2 / squareness);
  return Array.from({ length: n }, (_, i) => {
    const t = (2 * Math.PI * i) / n;
    return add(middle, add(scale(across, a * power(Math.cos(t))), scale(up, b * power(Math.sin(t)))));
  });
}

export const blade = {
  kind: 'blade',
  name: 'blade',
  about: 'A plan outline cut with a side curve and filled with sections: oars, paddles, blades, grips.',
  fields: [
    { type: 'group', key: 'plan', label: 'Plan', fields: SKETCH_FIELDS, drawn: true },
    { type: 'group', key: 'side', label: 'Side', fields: SKETCH_FIELDS, drawn: true },
    {
      type: 'list',
      key: 'stations',
      label: 'Stations',
      one: 'Station',
      least: 2,
      most: 40,
      fields: [length('at', 'Along'), size('thickness', 'Thickness'), plain('squareness', 'Squareness', 1.2, 12)],
      fresh: (list) => {
        const last = list[list.length - 1] as unknown as BladeStation;
        return { at: last.at + 20, thickness: last.thickness, squareness: last.squareness };
      },
    },
  ],
  fresh: () => ({
    name: 'Blade',
    plan: {
      points: [
        { id: 'a', x: 0, y: -12, fixed: true },
        { id: 'b', x: 120, y: -20 },
        { id: 'c', x: 120, y: 20 },
        { id: 'd', x: 0, y: 12 },
        { id: 'm', x: 120, y: 0 },
      ],
      curves: [
        { id: 'l1', name: 'right edge', kind: 'line' as const, a: 'a', b: 'b' },
        { id: 'r1', name: 'tip', kind: 'arc' as const, a: 'b', b: 'c', centre: 'm', turn: 'left' as const },
        { id: 'l2', name: 'left edge', kind: 'line' as const, a: 'c', b: 'd' },
        { id: 'l3', name: 'root', kind: 'line' as const, a: 'd', b: 'a' },
      ],
      constraints: [],
    },
    side: {
      points: [
        { id: 'a', x: 0, y: 0, fixed: true },
        { id: 'b', x: 150, y: 0 },
      ],
      curves: [{ id: 'l1', name: 'middle', kind: 'line' as const, a: 'a', b: 'b' }],
      constraints: [{ id: 'k1', kind: 'horizontal' as const, one: 'l1' }],
    },
    stations: [
      { id: 's1', at: 0, thickness: 18, squareness: 2 },
      { id: 's2', at: 140, thickness: 5, squareness: 2.4 },
    ],
  }),
  words: (s: BladeStep) => `blade · ${s.stations.length} stations`,
  maker,
} satisfies StepKind<BladeStep>;
