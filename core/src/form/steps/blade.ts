import { FormError } from '../../errors';
import { add, cross, normalise, scale, type Vec3 } from '../../maths/vec3';
import type { PolyMesh } from '../../mesh/polymesh';
import { figure, millimetres } from '../../units/lengths';
import { balancedCount, balancedError, balancedScale } from '../budget/chord';
import { type Curve, pointAt } from '../curves';
import { length, plain, size } from '../fields';
import { loft } from '../loft';
import { outlinesOf, pathOf } from '../sketch/chains';
import { SKETCH_FIELDS, type Sketch } from '../sketch/sketch';
import { type Adaptive, countOf, type Detail, type Maker, type StepBase, type StepKind, type StepNote } from '../step';

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
  /** Widths along z, from one edge to the other, where nothing of the plan is, mm. */
  gaps(x: number): [number, number][];
  widest: number;
  thickest: number;
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

/** @throws FormError `blade/…` */
function shapeOf(step: BladeStep): Shape {
  const { outer } = outlinesOf(step.plan, step.name);
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
    gaps(x) {
      const zs = crossings(outer.curves, x);
      return Array.from({ length: Math.max(0, Math.floor(zs.length / 2) - 1) }, (_, i): [number, number] => [zs[2 * i + 1], zs[2 * i + 2]]);
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
    widest: Math.max(...all.map((p) => p[1])) - Math.min(...all.map((p) => p[1])),
    thickest: Math.max(...sorted.map((s) => s.thickness)),
  };
}

const around = (step: BladeStep, s: Shape): Adaptive => {
  const reach = Math.max(s.widest, s.thickest) / 2;
  // An oval's sides are closest where it is flat: half of the reach stands for its whole round, measured against dense sections.
  return {
    key: `${step.id}.section`,
    label: 'sides of the section',
    minimum: 6,
    every: 2,
    errorMm: (n) => balancedError(reach / 2, n),
    countFor: (e) => balancedCount(reach / 2, e, 6),
  };
};

const RESOLUTION = 160;
/** Sections looked through for notches. */
const NOTCHES = 600;
/** Rows along the piece: the chord error of plan edges, middle line and thickness, measured on a dense run of sections. */
const along = (step: BladeStep, s: Shape): Adaptive => {
  const dense = Array.from({ length: RESOLUTION + 1 }, (_, i) => {
    const x = s.x0 + (s.x1 - s.x0) * spaced(i / RESOLUTION);
    const [left, right] = s.plan(x);
    const [y] = s.side(x);
    return [left, right, y + s.at(x).thickness / 2, y - s.at(x).thickness / 2];
  });
  const errorMm = (n: number): number => {
    let worst = 0;
    for (let i = 0; i < n; i++) {
      const [a, b] = [(i / n) * RESOLUTION, ((i + 1) / n) * RESOLUTION];
      for (let j = Math.ceil(a); j <= b; j++)
        for (let k = 0; k < 4; k++) {
          const t = (j - a) / (b - a);
          const chord = (1 - t) * lerp(dense, a, k) + t * lerp(dense, b, k);
          worst = Math.max(worst, Math.abs(dense[j][k] - chord));
        }
    }
    return worst;
  };
  return {
    key: `${step.id}.rows`,
    label: 'sections along it',
    minimum: 4,
    errorMm,
    countFor(e) {
      let n = 4;
      while (n < RESOLUTION && errorMm(n) > e) n = Math.ceil(n * 1.15);
      while (n > 4 && errorMm(n - 1) <= e) n--;
      return Math.min(n, RESOLUTION);
    },
  };
};
const lerp = (list: readonly number[][], at: number, k: number): number => {
  const i = Math.min(list.length - 2, Math.floor(at));
  return list[i][k] + (at - i) * (list[i + 1][k] - list[i][k]);
};
/** Closer together at both ends, where plans are rounded. */
const spaced = (t: number): number => 0.5 - 0.5 * Math.cos(Math.PI * t);

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
    const loops = Array.from({ length: k + 1 }, (_, j) => section(s, s.x0 + (s.x1 - s.x0) * spaced(j / k), n, detail));
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
  /** Sections run from edge to edge: where the plan turns back on itself, as teeth and notches do, what lies between is filled. */
  notes(step) {
    const s = shapeOf(step);
    let filled = { width: 0, x: 0, z: 0 };
    let places = 0;
    let inside = false;
    for (let i = 0; i <= NOTCHES; i++) {
      const x = s.x0 + ((s.x1 - s.x0) * (i + 0.5)) / (NOTCHES + 1);
      const gaps = s.gaps(x).filter(([a, b]) => b - a > 1e-3 * s.widest);
      if (gaps.length > 0 && !inside) places++;
      inside = gaps.length > 0;
      for (const [a, b] of gaps) if (b - a > filled.width) filled = { width: b - a, x, z: -(a + b) / 2 };
    }
    const notes: StepNote[] = [];
    const lost = smoothedAway(s, outlinesOf(step.plan, step.name).outer.curves);
    if (lost.mm > Math.max(0.05, LOST * s.widest))
      notes.push({
        code: 'blade/teeth',
        message: `The plan of “${step.name}” has ${lost.corners === 1 ? 'a corner' : `${lost.corners} corners`} that sections along it can’t follow: up to ${millimetres(lost.mm, 2)} are smoothed away near ${millimetres(lost.x, 1)}. Cut teeth and shoulders with another part.`,
        value: lost.mm,
        limit: Math.max(0.05, LOST * s.widest),
        unit: 'mm',
        where: [[lost.x, s.side(lost.x)[0], -lost.z]],
      });
    if (places === 0) return notes;
    const [y] = s.side(filled.x);
    return [
      ...notes,
      {
        code: 'blade/notches',
        message: `The plan of “${step.name}” turns back on itself at ${places === 1 ? 'one place' : `${places} places`}, as teeth and notches do: a blade is filled from edge to edge, so up to ${millimetres(filled.width, 2)} between them are closed. Cut them with another part.`,
        value: filled.width,
        limit: 0,
        unit: 'mm',
        where: [[filled.x, y, filled.z]],
      },
    ];
  },
  topology: () => ({ shells: 1, genus: 0, rims: 0 }),
};

/** Share of the width that may be smoothed away at a corner without a word. */
const LOST = 0.01;

/** How far the corners of a plan lie from the densest run of sections there is, mm: teeth between two of them are not there. */
function smoothedAway(s: Shape, curves: readonly Curve[]): { mm: number; corners: number; x: number; z: number } {
  const xs = Array.from({ length: RESOLUTION + 1 }, (_, i) => s.x0 + (s.x1 - s.x0) * spaced(i / RESOLUTION));
  const edges = xs.map((x) => s.plan(x));
  const worst = { mm: 0, corners: 0, x: s.x0, z: 0 };
  for (const { a } of curves) {
    const i = Math.min(RESOLUTION - 1, Math.max(0, xs.findIndex((x) => x >= a[0]) - 1));
    const t = (a[0] - xs[i]) / Math.max(1e-12, xs[i + 1] - xs[i]);
    const own = s.plan(Math.min(s.x1, Math.max(s.x0, a[0])));
    const off = Math.max(...[0, 1].map((k) => Math.abs(own[k] - ((1 - t) * edges[i][k] + t * edges[i + 1][k]))));
    if (off > Math.max(0.05, LOST * s.widest)) worst.corners++;
    if (off > worst.mm) Object.assign(worst, { mm: off, x: a[0], z: a[1] });
  }
  return worst;
}

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
  const [a, b] = [((right - left) / 2) * k, (thickness / 2) * k];
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
