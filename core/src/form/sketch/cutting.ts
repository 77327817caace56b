import { FormError } from '../../errors';
import { type Curve, gap, meet, type Point2, shareOf } from '../curves';
import { curveIn } from './chains';
import { toCurve } from './parallel';
import type { Constraint, Sketch, SketchCurve, SketchPoint } from './sketch';
import { without } from './sketch';

/** Ends nearer than this are one, mm. */
const SAME = 1e-6;

/** The curve nearest to a place, at most `within` mm off. */
export function nearestCurve(sketch: Sketch, at: Point2, within: number): string | null {
  let [best, least] = [null as string | null, within];
  for (const c of sketch.curves)
    for (const part of asCurves(sketch, c)) {
      const off = toCurve(at, part);
      if (off <= least) [best, least] = [c.id, off];
    }
  return best;
}

/** Where a curve meets another, by its own share of the way (of the turn, for a circle). */
interface Meeting {
  share: number;
  at: Point2;
  curve: string;
}

/**
 * A sketch without the part of a curve that lies between its neighbouring crossings with others, or between one and its end; a curve
 * nothing crosses goes altogether. What is left ends on the curves that cut it, and is held there.
 *
 * @param at where it was clicked, mm
 * @throws FormError `sketch/trim` when there is no such curve
 */
export function trimmed(sketch: Sketch, id: string, at: Point2): Sketch {
  const c = curveOf(sketch, id);
  const cuts = meetings(sketch, c, true);
  if (c.kind === 'circle') return trimmedCircle(sketch, c, at, cuts);
  const own = curveIn(sketch, c, true);
  const here = Math.min(1, Math.max(0, shareOf(own, at)));
  const inside = cuts.filter((m) => m.share > 1e-6 && m.share < 1 - 1e-6);
  const from = inside.filter((m) => m.share <= here).at(-1);
  const to = inside.find((m) => m.share > here);
  if (!from && !to) return without(sketch, [id]);
  if (from && to) {
    // It becomes two: the first keeps its name and what was said of it.
    const start = landing(sketch, to);
    const second: SketchCurve = { ...c, id: freshId(start.sketch, 's'), a: start.point };
    const both = held({ ...start.sketch, curves: [...start.sketch.curves, second] }, start.point, to.curve, start.fresh);
    return endedAt(both, c, 'b', from);
  }
  return from ? endedAt(sketch, c, 'b', from) : endedAt(sketch, c, 'a', to as Meeting);
}

function trimmedCircle(sketch: Sketch, c: SketchCurve, at: Point2, cuts: readonly Meeting[]): Sketch {
  if (cuts.length < 2) return without(sketch, [c.id]);
  const m = sketch.points.find((p) => p.id === c.centre) as SketchPoint;
  const turn = Math.atan2(at[1] - m.y, at[0] - m.x) / (2 * Math.PI);
  const here = turn - Math.floor(turn);
  const to = cuts.find((x) => x.share > here) ?? cuts[0];
  const from = [...cuts].reverse().find((x) => x.share <= here) ?? cuts[cuts.length - 1];
  // The rest of it is an arc, to the left from the end of what goes to its beginning.
  const a = landing(sketch, to);
  const b = landing(a.sketch, from);
  const { radius: _, ...rest } = c;
  const arc: SketchCurve = { ...rest, kind: 'arc', a: a.point, b: b.point, turn: 'left' };
  const next = { ...b.sketch, curves: b.sketch.curves.map((x) => (x.id === c.id ? arc : x)) };
  return held(held(next, a.point, to.curve, a.fresh), b.point, from.curve, b.fresh);
}

/**
 * A line or arc run on, from the end nearer to a place, to the next curve it meets there, and held on it.
 *
 * @throws FormError `sketch/extend` when that end is joined to something, or nothing lies ahead
 */
export function extended(sketch: Sketch, id: string, at: Point2): Sketch {
  const c = curveOf(sketch, id);
  if (c.kind === 'circle') throw new FormError('sketch/extend', 'A circle has no end to run on from.');
  const own = curveIn(sketch, c, true);
  const end = gap(own.a, at) < gap(own.b, at) ? 'a' : 'b';
  const point = c[end] as string;
  if (sketch.curves.some((x) => x.id !== id && (x.a === point || x.b === point)))
    throw new FormError('sketch/extend', `That end of “${c.name}” is joined to another curve; click near a loose end.`);
  const ahead = meetings(sketch, c, false)
    .map((m) => ({ ...m, beyond: end === 'b' ? m.share - 1 : -m.share }))
    .filter((m) => m.beyond > 1e-6)
    .sort((p, q) => p.beyond - q.beyond);
  if (ahead.length === 0) throw new FormError('sketch/extend', `Nothing lies ahead of that end of “${c.name}”.`);
  return endedAt(sketch, c, end, ahead[0]);
}

function curveOf(sketch: Sketch, id: string): SketchCurve {
  const c = sketch.curves.find((x) => x.id === id);
  if (!c) throw new FormError('sketch/trim', 'There is no curve under the hand.');
  return c;
}

/** Where others cross a curve, on it or (without `within`) on its continuation, in the order of its way. */
function meetings(sketch: Sketch, c: SketchCurve, within: boolean): Meeting[] {
  const own = asCurves(sketch, c);
  const out: Meeting[] = [];
  for (const other of sketch.curves) {
    if (other.id === c.id) continue;
    for (const o of asCurves(sketch, other))
      for (const p of meet(own[0], o)) {
        if (toCurve(p, o) > SAME) continue;
        const share = c.kind === 'circle' ? turnOf(sketch, c, p) : shareOf(own[0], p);
        if (within && (share < -1e-9 || share > 1 + 1e-9)) continue;
        if (!out.some((m) => Math.abs(m.share - share) < 1e-9)) out.push({ share, at: p, curve: other.id });
      }
  }
  return out.sort((a, b) => a.share - b.share);
}
function turnOf(sketch: Sketch, c: SketchCurve, p: Point2): number {
  const m = sketch.points.find((q) => q.id === c.centre) as SketchPoint;
  const t = Math.atan2(p[1] - m.y, p[0] - m.x) / (2 * Math.PI);
  return t - Math.floor(t);
}
function asCurves(sketch: Sketch, c: SketchCurve): Curve[] {
  if (c.kind !== 'circle') return [curveIn(sketch, c, true)];
  const m = sketch.points.find((q) => q.id === c.centre) as SketchPoint;
  const r = c.radius ?? 1;
  const centre: Point2 = [m.x, m.y];
  const half = (s: number): Curve => ({ kind: 'arc', a: [m.x + s * r, m.y], b: [m.x - s * r, m.y], centre, radius: r, sweep: Math.PI });
  return [half(1), half(-1)];
}

/** A point where a cut is: an end that stands there already, or a new one. */
function landing(sketch: Sketch, { at }: Meeting): { sketch: Sketch; point: string; fresh: boolean } {
  const there = sketch.points.find((p) => gap([p.x, p.y], at) < SAME && sketch.curves.some((c) => c.a === p.id || c.b === p.id));
  if (there) return { sketch, point: there.id, fresh: false };
  const id = freshId(sketch, 'p');
  return { sketch: { ...sketch, points: [...sketch.points, { id, x: at[0], y: at[1] }] }, point: id, fresh: true };
}

/** A curve ended somewhere else; its old end goes when nothing stands on it any more, and what was said of it too. */
function endedAt(sketch: Sketch, c: SketchCurve, end: 'a' | 'b', cut: Meeting): Sketch {
  const { sketch: next0, point, fresh } = landing(sketch, cut);
  const old = c[end] as string;
  const curves = next0.curves.map((x) => (x.id === c.id ? { ...x, [end]: point } : x));
  const next: Sketch = { ...next0, curves };
  const used = curves.some((x) => [x.a, x.b, x.centre].includes(old));
  // How long a line is was said of its old ends.
  const said = next.constraints.filter(
    (k) => !(k.one === c.id && k.two === undefined && ['distance', 'across', 'upward'].includes(k.kind)),
  );
  const kept: Sketch = { ...next, constraints: said };
  return held(used ? kept : dropped(kept, old), point, cut.curve, fresh);
}
function dropped(sketch: Sketch, point: string): Sketch {
  return {
    ...sketch,
    points: sketch.points.filter((p) => p.id !== point),
    constraints: sketch.constraints.filter((k) => ![k.one, k.two, k.three].includes(point)),
    ...(sketch.features && {
      features: sketch.features
        .map((f) => ({
          ...f,
          of: f.of
            .split(' ')
            .filter((i) => i !== point)
            .join(' '),
        }))
        .filter((f) => f.of !== '' && f.about !== point),
    }),
  };
}
/** A new end stays on the curve that cut it. */
function held(sketch: Sketch, point: string, curve: string, fresh: boolean): Sketch {
  if (!fresh || !sketch.curves.some((c) => c.id === curve)) return sketch;
  const k: Constraint = { id: freshId(sketch, 'k'), kind: 'coincident', one: point, two: curve };
  return { ...sketch, constraints: [...sketch.constraints, k] };
}

/** The first free id that starts with a letter. */
export function freshId(sketch: Sketch, letter: string): string {
  const taken = new Set([...sketch.points, ...sketch.curves, ...sketch.constraints, ...(sketch.features ?? [])].map((o) => o.id));
  let n = 1;
  while (taken.has(`${letter}${n}`)) n++;
  return `${letter}${n}`;
}
