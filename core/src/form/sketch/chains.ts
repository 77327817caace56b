import { FormError } from '../../errors';
import { Groups } from '../../mesh/connectivity';
import { type Curve, line, type Point2, pointAt } from '../curves';
import { withFeatures } from './features';
import type { Sketch, SketchCurve } from './sketch';
import { clashWords, solveSketch } from './solve';

/** Curves that follow each other, with the sketch's ids and names. */
export interface Chain {
  curves: Curve[];
  ids: string[];
  names: string[];
  closed: boolean;
}

/**
 * A sketch brought to where its constraints hold, with what its kept features make of it.
 *
 * @throws FormError `sketch/conflict` naming the constraints that can't hold together, `sketch/unsolved` when it finds no place
 */
export function settled(sketch: Sketch, step: string): Sketch {
  const solved = solveSketch(sketch);
  const clash = clashWords(sketch, solved).find((c) => c.conflict);
  if (clash) throw new FormError('sketch/conflict', `In the sketch of “${step}”, ${clash.message}`);
  if (!solved.solved)
    throw new FormError('sketch/unsolved', `The constraints in the sketch of “${step}” found no place where all of them hold.`);
  return withFeatures(solved.sketch, step);
}

/** The curves of a sketch that are no guides, joined end to end where they share a point. Chains keep the sketch's order. */
export const chainsOf = (sketch: Sketch, step: string): Chain[] => chainsIn(sketch, step);

/** As {@link chainsOf}; features, which are made of chains, ask here. */
export function chainsIn(sketch: Sketch, step: string): Chain[] {
  const at = new Map(sketch.points.map((p, i) => [p.id, i]));
  const groups = new Groups(sketch.points.length);
  for (const k of sketch.constraints) {
    const [a, b] = [at.get(k.one), at.get(k.two ?? '')];
    if (k.kind === 'coincident' && a !== undefined && b !== undefined) groups.join(a, b);
  }
  const end = (id: string | undefined) => groups.find(at.get(id ?? '') ?? 0);
  const waiting = sketch.curves.filter((c) => !c.guide && c.kind !== 'circle');
  const meeting = new Map<number, number>();
  for (const c of waiting) for (const e of [end(c.a), end(c.b)]) meeting.set(e, (meeting.get(e) ?? 0) + 1);
  for (const [e, n] of meeting)
    if (n > 2)
      throw new FormError('sketch/branch', `${n} curves meet at point ${e + 1} in the sketch of “${step}”; an outline has two there.`);
  const chains: Chain[] = [];
  while (waiting.length > 0) {
    // A loose end starts a chain; without one the chain is closed and starts anywhere.
    const i = waiting.findIndex((c) => meeting.get(end(c.a)) === 1 || meeting.get(end(c.b)) === 1);
    const first = waiting.splice(Math.max(0, i), 1)[0];
    const forward = i < 0 || meeting.get(end(first.a)) === 1;
    const list = [{ curve: first, forward }];
    let tail = end(forward ? first.b : first.a);
    const head = end(forward ? first.a : first.b);
    while (tail !== head) {
      const next = waiting.findIndex((c) => end(c.a) === tail || end(c.b) === tail);
      if (next < 0) break;
      const curve = waiting.splice(next, 1)[0];
      const goes = end(curve.a) === tail;
      list.push({ curve, forward: goes });
      tail = end(goes ? curve.b : curve.a);
    }
    chains.push({
      curves: list.map(({ curve, forward: f }) => curveIn(sketch, curve, f)),
      ids: list.map((l) => l.curve.id),
      names: list.map((l) => l.curve.name),
      closed: tail === head,
    });
  }
  for (const c of sketch.curves) {
    if (c.guide || c.kind !== 'circle') continue;
    const m = placeOf(sketch, c.centre);
    const r = c.radius ?? 1;
    const [east, west]: Point2[] = [
      [m[0] + r, m[1]],
      [m[0] - r, m[1]],
    ];
    const half = (a: Point2, b: Point2): Curve => ({ kind: 'arc', a, b, centre: m, radius: r, sweep: Math.PI });
    chains.push({ curves: [half(east, west), half(west, east)], ids: [c.id, `${c.id}'`], names: [c.name, c.name], closed: true });
  }
  return chains;
}

function placeOf(sketch: Pick<Sketch, 'points'>, id: string | undefined): Point2 {
  const p = sketch.points.find((q) => q.id === id);
  return [p?.x ?? 0, p?.y ?? 0];
}

/** A line or arc of a sketch, or the same the other way. */
export function curveIn(sketch: Pick<Sketch, 'points'>, c: SketchCurve, forward: boolean): Curve {
  const [a, b] = [placeOf(sketch, forward ? c.a : c.b), placeOf(sketch, forward ? c.b : c.a)];
  if (c.kind === 'line') return line(a, b);
  const centre = placeOf(sketch, c.centre);
  const radius = (Math.hypot(a[0] - centre[0], a[1] - centre[1]) + Math.hypot(b[0] - centre[0], b[1] - centre[1])) / 2;
  const left = (c.turn !== 'right') === forward;
  let sweep = Math.atan2(b[1] - centre[1], b[0] - centre[0]) - Math.atan2(a[1] - centre[1], a[0] - centre[0]);
  if (left && sweep <= 1e-12) sweep += 2 * Math.PI;
  if (!left && sweep >= -1e-12) sweep -= 2 * Math.PI;
  return { kind: 'arc', a, b, centre, radius, sweep };
}

export const reversedCurve = (c: Curve): Curve => (c.kind === 'line' ? line(c.b, c.a) : { ...c, a: c.b, b: c.a, sweep: -c.sweep });

/** The same way in the other direction. */
export function reversed(chain: Chain): Chain {
  return {
    curves: chain.curves.map(reversedCurve).reverse(),
    ids: [...chain.ids].reverse(),
    names: [...chain.names].reverse(),
    closed: chain.closed,
  };
}

/** Signed area inside a closed chain, mm²: positive when it runs counter-clockwise. Exact for lines and arcs (Green). */
export function areaInside(chain: Chain): number {
  return chain.curves.reduce((sum, c) => {
    const chord = (c.a[0] * c.b[1] - c.b[0] * c.a[1]) / 2;
    return sum + chord + (c.kind === 'arc' ? (c.radius * c.radius * (c.sweep - Math.sin(c.sweep))) / 2 : 0);
  }, 0);
}

/** The one open way through a sketch. @throws FormError when there are more or none */
export function pathOf(sketch: Sketch, step: string): Chain {
  const chains = chainsOf(settled(sketch, step), step);
  if (chains.length !== 1 || chains[0].closed)
    throw new FormError(
      'sketch/path',
      chains.length === 0
        ? `The sketch of “${step}” has no curves yet.`
        : `The sketch of “${step}” has to be one open line from end to end; it is ${chains.length > 1 ? `${chains.length} pieces` : 'closed'}.`,
    );
  return chains[0];
}

/** Closed outlines of a sketch: the outer one counter-clockwise, holes clockwise. @throws FormError when one is open or none is there */
export function outlinesOf(sketch: Sketch, step: string): { outer: Chain; holes: Chain[] } {
  const chains = chainsOf(settled(sketch, step), step);
  const open = chains.find((c) => !c.closed);
  if (open || chains.length === 0)
    throw new FormError(
      'sketch/outline',
      open
        ? `The outline of “${step}” is open between “${open.names[open.names.length - 1]}” and “${open.names[0]}”.`
        : `The sketch of “${step}” has no curves yet.`,
    );
  const areas = chains.map(areaInside);
  const largest = areas.reduce((best, a, i) => (Math.abs(a) > Math.abs(areas[best]) ? i : best), 0);
  const run = (i: number, left: boolean) => (areas[i] > 0 === left ? chains[i] : reversed(chains[i]));
  const outer = run(largest, true);
  const holes = chains.map((_, i) => i).filter((i) => i !== largest);
  for (const i of holes)
    if (!inside(outer, chains[i].curves[0].a))
      throw new FormError(
        'sketch/outline',
        `“${chains[i].names[0]}” in the sketch of “${step}” lies outside the outline; draw it as a part of its own.`,
      );
  return { outer, holes: holes.map((i) => run(i, false)) };
}

function inside(chain: Chain, p: Point2): boolean {
  const points = chain.curves.flatMap((c) => {
    const steps = c.kind === 'line' ? 1 : Math.max(4, Math.ceil(Math.abs(c.sweep) * 20));
    return Array.from({ length: steps }, (_, k) => pointAt(c, k / steps));
  });
  let odd = false;
  for (let i = 0, j = points.length - 1; i < points.length; j = i++) {
    const [a, b] = [points[i], points[j]];
    if (a[1] > p[1] !== b[1] > p[1] && p[0] < ((b[0] - a[0]) * (p[1] - a[1])) / (b[1] - a[1]) + a[0]) odd = !odd;
  }
  return odd;
}
