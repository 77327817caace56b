import { AXIS } from '@wellmorph/core/form/sketch/convert';
import { freshId } from '@wellmorph/core/form/sketch/cutting';
import {
  arranged,
  type Constraint,
  type ConstraintKind,
  type Sketch,
  type SketchCurve,
  type SketchPoint,
} from '@wellmorph/core/form/sketch/sketch';
import { clashWords, type Solved, solveSketch } from '@wellmorph/core/form/sketch/solve';

type P = readonly [number, number];

/** What the hand is near: a point of the sketch, or the axis of a turned part. */
export interface Snap {
  at: [number, number];
  point?: string;
  onAxis?: boolean;
  /** Level with, or upright over, the point drawn from. */
  line?: 'horizontal' | 'vertical';
}

const SNAP_PX = 9;
/** Free places fall on whole half millimetres. */
const GRID_MM = 0.5;

/** Where a click lands. @param from the point a line is being drawn from @param skip a point not to land on */
export function snapTo(sketch: Sketch, [x, y]: P, scale: number, turned: boolean, from?: SketchPoint, skip?: string): Snap {
  const near = SNAP_PX / scale;
  const hidden = new Set<string>(turned ? [AXIS.foot, AXIS.top] : []);
  const point = sketch.points
    .filter((p) => !hidden.has(p.id) && p.id !== skip)
    .map((p) => ({ p, off: Math.hypot(p.x - x, p.y - y) }))
    .sort((a, b) => a.off - b.off)[0];
  if (point && point.off < near) return { at: [point.p.x, point.p.y], point: point.p.id };
  const grid = (v: number) => Math.round(v / GRID_MM) * GRID_MM;
  const out: Snap = { at: [grid(x), grid(y)] };
  if (turned && Math.abs(x) < near) {
    out.at[0] = 0;
    out.onAxis = true;
  }
  if (from && Math.abs(y - from.y) < near) {
    out.at[1] = from.y;
    out.line = 'horizontal';
  } else if (from && Math.abs(x - from.x) < near && !out.onAxis) {
    out.at[0] = from.x;
    out.line = 'vertical';
  }
  return out;
}

/** A point where the hand landed: one that is there, or a new one, held on the axis when it landed there. */
export function withPoint(sketch: Sketch, snap: Snap): { sketch: Sketch; id: string } {
  if (snap.point) return { sketch, id: snap.point };
  const id = freshId(sketch, 'p');
  const next: Sketch = { ...sketch, points: [...sketch.points, { id, x: snap.at[0], y: snap.at[1] }] };
  return { sketch: snap.onAxis ? said(next, { kind: 'coincident', one: id, two: AXIS.line }) : next, id };
}

/** The sketch with a curve more, named after its place in the line. */
export function withCurve(sketch: Sketch, curve: Omit<SketchCurve, 'id' | 'name'>): { sketch: Sketch; id: string } {
  const id = freshId(sketch, 's');
  return { sketch: { ...sketch, curves: [...sketch.curves, { id, name: `${curve.kind} ${id.slice(1)}`, ...curve }] }, id };
}

const said = (sketch: Sketch, k: Omit<Constraint, 'id'>): Sketch => ({
  ...sketch,
  constraints: [...sketch.constraints, { id: freshId(sketch, 'k'), ...k }],
});

/** A curve held to the length or radius that was typed while it was drawn. */
export const withFigure = (sketch: Sketch, kind: 'distance' | 'radius', curve: string, mm: number): Sketch =>
  said(sketch, { kind, one: curve, mm });

/** What a line drawn level or upright is held to. Not said where it says nothing new. */
export function withHint(sketch: Sketch, curve: string, snap: Snap): Sketch {
  if (!snap.line) return sketch;
  const tried = constrain(sketch, snap.line, [curve]);
  return 'sketch' in tried ? tried.sketch : sketch;
}

/** An arc from a to b through a third place. @returns null when the three lie on one line */
export function arcThrough(a: P, b: P, c: P): { centre: [number, number]; turn: 'left' | 'right' } | null {
  const [bx, by, cx, cy] = [b[0] - a[0], b[1] - a[1], c[0] - a[0], c[1] - a[1]];
  const d = 2 * (bx * cy - by * cx);
  if (Math.abs(d) < 1e-6) return null;
  const [b2, c2] = [bx * bx + by * by, cx * cx + cy * cy];
  const centre: [number, number] = [a[0] + (cy * b2 - by * c2) / d, a[1] + (bx * c2 - cx * b2) / d];
  // Going left from a to b the arc bulges to the right of its chord.
  return { centre, turn: bx * cy - by * cx < 0 ? 'left' : 'right' };
}

/** The figure a constraint starts with: what is there now. */
function measured(sketch: Sketch, kind: ConstraintKind, [one, two]: readonly string[]): Partial<Constraint> {
  const point = (id: string | undefined) => sketch.points.find((p) => p.id === id);
  const curve = (id: string | undefined) => sketch.curves.find((c) => c.id === id);
  const ends = (id: string | undefined) => [point(curve(id)?.a), point(curve(id)?.b)] as const;
  const tidy = (x: number) => Math.round(x * 100) / 100;
  const gap = (p?: SketchPoint, q?: SketchPoint) => (p && q ? Math.hypot(p.x - q.x, p.y - q.y) : 0);
  if (kind === 'radius') {
    const c = curve(one);
    return { mm: tidy(c?.kind === 'circle' ? (c.radius ?? 1) : gap(point(c?.a), point(c?.centre))) };
  }
  if (kind === 'angle') {
    const [a, b] = [ends(one), ends(two)].map(([p, q]) => Math.atan2((q?.y ?? 0) - (p?.y ?? 0), (q?.x ?? 0) - (p?.x ?? 0)));
    const turn = ((b - a) * 180) / Math.PI;
    return { degrees: tidy(turn - 360 * Math.round(turn / 360)) };
  }
  if (kind === 'across' || kind === 'upward') {
    const [p, q] = two === undefined ? ends(one) : [point(one), point(two)];
    return { mm: tidy(kind === 'across' ? (q?.x ?? 0) - (p?.x ?? 0) : (q?.y ?? 0) - (p?.y ?? 0)) };
  }
  if (kind !== 'distance') return {};
  if (two === undefined) return { mm: tidy(gap(...ends(one))) };
  const [p, q] = [point(one), point(two)];
  if (q) return { mm: tidy(gap(p, q)) };
  const [a, b] = ends(two);
  if (!p || !a || !b) return { mm: 0 };
  const off = ((b.x - a.x) * (p.y - a.y) - (b.y - a.y) * (p.x - a.x)) / (gap(a, b) || 1);
  return { mm: tidy(Math.abs(off)) };
}

/**
 * Says something of what is chosen. A constraint that contradicts others, or says nothing new, is not taken: the sentence
 * tells why.
 */
export function constrain(
  sketch: Sketch,
  kind: ConstraintKind,
  chosen: readonly string[],
): { sketch: Sketch; id: string } | { wrong: string } {
  const order = arranged(sketch, kind, chosen);
  if (!order) return { wrong: 'That can’t be said of what is chosen.' };
  const id = freshId(sketch, 'k');
  const [one, two, three] = order;
  const k: Constraint = { id, kind, one, ...(two && { two }), ...(three && { three }), ...measured(sketch, kind, order) };
  const next: Sketch = { ...sketch, constraints: [...sketch.constraints, k] };
  const solved = solveSketch(next);
  const clash = clashWords(next, solved).find((c) => c.constraint === id || (c.conflict && !alreadyWrong(sketch, c.constraint)));
  if (clash) return { wrong: clash.message };
  if (!solved.solved) return { wrong: 'No place was found where that and everything else holds.' };
  return { sketch: settledPlaces(next, solved), id };
}

function alreadyWrong(sketch: Sketch, id: string): boolean {
  return solveSketch(sketch).conflicts.some((c) => c.constraint === id);
}

/** The sketch with its points where they came to rest, rounded far below what anything is made to. */
export function settledPlaces(sketch: Sketch, solved: Solved): Sketch {
  const tidy = (x: number) => Math.round(x * 1e9) / 1e9;
  return {
    ...sketch,
    points: sketch.points.map((p, i) => ({ ...p, x: tidy(solved.sketch.points[i].x), y: tidy(solved.sketch.points[i].y) })),
    curves: sketch.curves.map((c, i) => (c.kind === 'circle' ? { ...c, radius: tidy(solved.sketch.curves[i].radius ?? 1) } : c)),
  };
}
