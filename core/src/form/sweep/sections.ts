import { FormError } from '../../errors';
import { type Curve, curveLength, isSharp, type Point2, pointAt, tangentAt } from '../curves';
import { areaInside, type Chain, chainsOf, reversed, settled } from '../sketch/chains';
import type { Sketch } from '../sketch/sketch';

/** A section by the share of the way through it, 0…1. Open ones run straight on beyond both ends. */
export type SectionCurve = (t: number) => Point2;

/** Sections that answer each other: the same share is the same place on each. */
export interface Sections {
  open: boolean;
  curves: SectionCurve[];
  /** Shares at which all of them have a sharp corner; the ends of open ones are none. */
  corners: number[];
}

/** What lies between two corners: its curves, its length, and how far along them it begins. */
interface Run {
  curves: readonly Curve[];
  long: number;
  begun: number;
}

/**
 * Brings sketched sections into step: between corners by the length travelled, corner by corner.
 *
 * Open ones run the way the first does, left to right; closed ones counter-clockwise, from the corner (or, without any, the place) that
 * faces the same way.
 *
 * @param sketches in order along the path
 * @throws FormError `sweep/sections` when open and closed ones are mixed, or corners differ in number
 */
export function sectionsOf(sketches: readonly Sketch[], step: string): Sections {
  const chains = sketches.map((s, i) => oneChain(s, i, step));
  const open = !chains[0].closed;
  const odd = chains.findIndex((c) => c.closed === open);
  if (odd >= 0)
    throw new FormError(
      'sweep/sections',
      `Section ${odd + 1} of “${step}” is ${open ? 'closed' : 'open'} and the first is ${open ? 'open' : 'closed'}: a sweep has either.`,
    );
  const all = chains.map((c, i) => runsOf(open ? facing(c, i === 0 ? null : chains[0]) : leftward(c)));
  const corners = chains.map((c) => c.curves.filter((_, i) => isCorner(c, i)).length);
  const differs = corners.findIndex((n) => n !== corners[0]);
  if (differs >= 0)
    throw new FormError(
      'sweep/sections',
      `Section ${differs + 1} of “${step}” has ${count(corners[differs])} and the first has ${count(corners[0])}: corners run along the sweep, so each section needs as many.`,
    );
  const aligned = open ? all : all.map((a, i) => (i === 0 ? a : turnedTo(all[0], a)));
  const pieces = aligned[0].length;
  // The share of each run is the mean over the sections: none is stretched more than it has to be.
  const shares = Array.from({ length: pieces }, (_, k) => mean(aligned.map((runs) => runs[k].long / total(runs))));
  const knots = [0];
  for (const s of shares) knots.push(knots[knots.length - 1] + s);
  knots[pieces] = 1;
  return {
    open,
    curves: aligned.map((a) => curveOf(a, knots, open)),
    corners: open ? knots.slice(1, -1) : corners[0] > 0 ? knots.slice(0, -1) : [],
  };
}
const count = (n: number): string => (n === 0 ? 'no sharp corner' : n === 1 ? 'one sharp corner' : `${n} sharp corners`);
const mean = (x: readonly number[]): number => x.reduce((a, b) => a + b, 0) / x.length;
const total = (runs: readonly Run[]): number => runs.reduce((sum, r) => sum + r.long, 0);

function oneChain(sketch: Sketch, i: number, step: string): Chain {
  const chains = chainsOf(settled(sketch, step), step);
  if (chains.length !== 1)
    throw new FormError(
      'sweep/sections',
      chains.length === 0
        ? `Section ${i + 1} of “${step}” has no curves yet.`
        : `Section ${i + 1} of “${step}” is ${chains.length} lines; it has to be one, open or closed.`,
    );
  return chains[0];
}

const first = (c: Chain): Point2 => c.curves[0].a;
const last = (c: Chain): Point2 => c.curves[c.curves.length - 1].b;
/** Open: from left to right, upright ones from the foot; later ones the way the first one runs. */
function facing(c: Chain, like: Chain | null): Chain {
  const [a, b] = [first(c), last(c)];
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  if (!like) return dx < -1e-9 || (Math.abs(dx) <= 1e-9 && dy < 0) ? reversed(c) : c;
  const l = facing(like, null);
  const [p, q] = [first(l), last(l)];
  return dx * (q[0] - p[0]) + dy * (q[1] - p[1]) < 0 ? reversed(c) : c;
}
const leftward = (c: Chain): Chain => (areaInside(c) < 0 ? reversed(c) : c);

/** Whether curve `i` begins at a sharp corner; the loose ends of an open chain are none. */
function isCorner({ curves, closed }: Chain, i: number): boolean {
  return (i > 0 || closed) && isSharp(curves[(i + curves.length - 1) % curves.length], curves[i]);
}

/** A section cut at its corners. A closed one without any is one run. */
function runsOf(chain: Chain): Run[] {
  const { curves, closed } = chain;
  const start = closed
    ? Math.max(
        0,
        curves.findIndex((_, i) => isCorner(chain, i)),
      )
    : 0;
  const order = curves.map((_, k) => (start + k) % curves.length);
  const runs: Curve[][] = [];
  for (const i of order) {
    if (runs.length === 0 || isCorner(chain, i)) runs.push([]);
    runs[runs.length - 1].push(curves[i]);
  }
  const sharp = closed && curves.some((_, i) => isCorner(chain, i));
  const list = runs.map((r): Run => ({ curves: r, long: r.reduce((sum, c) => sum + curveLength(c), 0), begun: 0 }));
  return closed && !sharp ? [begunEast(list[0])] : list;
}

/** A closed run without corners begun where it stands farthest to the right: there all sections face the same way. */
function begunEast(run: Run): Run {
  const at = (t: number): Point2 => along(run, (((t % 1) + 1) % 1) * run.long);
  let best = 0;
  for (let k = 0; k < 256; k++) if (at(k / 256)[0] > at(best)[0] + 1e-9) best = k / 256;
  let [low, high] = [best - 1 / 256, best + 1 / 256];
  for (let k = 0; k < 60; k++) {
    const [a, b] = [low + (high - low) / 3, high - (high - low) / 3];
    if (at(a)[0] < at(b)[0]) low = a;
    else high = b;
  }
  return { ...run, begun: (((((low + high) / 2) % 1) + 1) % 1) * run.long };
}

function along(run: Run, far: number): Point2 {
  let left = far;
  for (const c of run.curves) {
    const l = curveLength(c);
    if (left <= l) return pointAt(c, l === 0 ? 0 : left / l);
    left -= l;
  }
  return run.curves[run.curves.length - 1].b;
}

/** Which corner answers the first one’s first: the turn that brings all of them closest. */
function turnedTo(like: readonly Run[], of: readonly Run[]): Run[] {
  const n = like.length;
  const start = (a: readonly Run[], k: number): Point2 => a[k % n].curves[0].a;
  let [best, least] = [0, Number.POSITIVE_INFINITY];
  for (let by = 0; by < n; by++) {
    let sum = 0;
    for (let k = 0; k < n; k++) {
      const [p, q] = [start(like, k), start(of, k + by)];
      sum += (p[0] - q[0]) ** 2 + (p[1] - q[1]) ** 2;
    }
    if (sum < least - 1e-9) [best, least] = [by, sum];
  }
  return of.map((_, k) => of[(k + best) % n]);
}

function curveOf(runs: readonly Run[], knots: readonly number[], open: boolean): SectionCurve {
  const n = runs.length;
  const [head, tail] = [runs[0].curves[0], runs[n - 1].curves[runs[n - 1].curves.length - 1]];
  const [d, e] = [tangentAt(head, 0), tangentAt(tail, 1)];
  const [first, end] = [runs[0].long / knots[1], runs[n - 1].long / (1 - knots[n - 1])];
  return (t) => {
    if (open && t < 0) return [head.a[0] + d[0] * t * first, head.a[1] + d[1] * t * first];
    if (open && t > 1) return [tail.b[0] + e[0] * (t - 1) * end, tail.b[1] + e[1] * (t - 1) * end];
    const turn = open ? t : t - Math.floor(t);
    const k = Math.max(
      0,
      Math.min(
        n - 1,
        knots.findLastIndex((x) => x <= turn),
      ),
    );
    const run = runs[k];
    const far = ((turn - knots[k]) / (knots[k + 1] - knots[k])) * run.long + run.begun;
    return along(run, far > run.long ? far - run.long : far);
  };
}
