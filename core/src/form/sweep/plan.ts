import { FormError } from '../../errors';
import type { Vec3 } from '../../maths/vec3';
import { millimetres } from '../../units/lengths';
import { type Curve, curveLength, directionAt, isSharp, type Point2, pointAt } from '../curves';
import { outlinesOf } from '../sketch/chains';
import type { Sketch } from '../sketch/sketch';
import type { Surface } from './surface';

/** A place on a swept surface: mm along its path, share through its section. */
export type Place = readonly [s: number, t: number];
/** Any surface over the same places: the swept one, or one a wall away from it. */
export type Placed = (s: number, t: number) => Vec3;

/** A place on the outline, and where on the surface it is. */
export interface OnOutline {
  /** Number of the curve and the share along it. */
  curve: number;
  share: number;
  plan: Point2;
  place: Place;
}

/** Where a surface stops: two sides along it and what closes it at both ends. A pole has no length. */
export interface Bounds {
  /** Places with a line across whatever else is there: sharp corners of the sides, mm along the path. */
  rows: number[];
  left(s: number): OnOutline | Place;
  right(s: number): OnOutline | Place;
  ends: readonly [End, End];
}
export interface End {
  pole: boolean;
  /** From the left side to the right one. @param u 0…1 by length */
  at(u: number): OnOutline | Place;
  /** Shares with a sharp corner. */
  corners: number[];
  /** The share at which the section has gone so far. */
  share(t: number): number;
}

export const seen = (p: Vec3): Point2 => [p[0], -p[2]];
export const placeOf = (o: OnOutline | Place): Place => ('place' in o ? o.place : o);

/** Nothing cuts: the sections' own ends, the path's own ends. */
export function uncut(surface: Surface): Bounds {
  const end = (s: number): End => ({ pole: false, at: (u) => [s, u], corners: [], share: (t) => t });
  return { rows: [], left: (s) => [s, 0], right: (s) => [s, 1], ends: [end(0), end(surface.long)] };
}

/** Steps a Newton iteration may take, and how near it comes, mm. */
const STEPS = 40;
const NEAR = 1e-9;

/**
 * The place of a surface that lies under a point of the plan.
 *
 * @param near where to begin
 * @returns null where the surface stands upright or no place comes near
 */
export function under(surface: Placed, plan: Point2, near: Place, long: number): Place | null {
  let [s, t] = near;
  const [hs, ht] = [long * 1e-6, 1e-6];
  for (let k = 0; k < STEPS; k++) {
    const p = seen(surface(s, t));
    const r: Point2 = [p[0] - plan[0], p[1] - plan[1]];
    if (Math.hypot(r[0], r[1]) < NEAR) return [s, t];
    const [a, b] = [seen(surface(s + hs, t)), seen(surface(s, t + ht))];
    const [sx, sy] = [(a[0] - p[0]) / hs, (a[1] - p[1]) / hs];
    const [tx, ty] = [(b[0] - p[0]) / ht, (b[1] - p[1]) / ht];
    const det = sx * ty - sy * tx;
    if (Math.abs(det) < 1e-9 * Math.hypot(sx, sy) * Math.hypot(tx, ty) || !Number.isFinite(det)) return null;
    // A step is kept short: sections curve.
    const ds = Math.max(-long / 8, Math.min(long / 8, (r[0] * ty - r[1] * tx) / det));
    const dt = Math.max(-0.15, Math.min(0.15, (sx * r[1] - sy * r[0]) / det));
    s -= ds;
    t -= dt;
    if (t < -3 || t > 4) return null;
  }
  const p = seen(surface(s, t));
  return Math.hypot(p[0] - plan[0], p[1] - plan[1]) < 1e-6 ? [s, t] : null;
}

/** Samples along a curve of the outline. */
const samplesOn = (c: Curve): number => (c.kind === 'line' ? 12 : Math.max(8, Math.ceil(Math.abs(c.sweep) * 18)));
/** How far past a section's end a plan may reach, mm: rounding. */
const PAST = 0.005;
/** Share of its length by which a path is run on for a plan that ends beside it. */
const RUN_ON = 0.05;

/**
 * What a plan outline leaves of a surface. Its ends are the parts that run more across than along, from where the sides turn into
 * them; a point where both sides meet is a pole.
 *
 * @param plan seen from above: across is x, up is −z
 * @throws FormError `sketch/…` for the outline, `sweep/plan` naming the curve where the surface ends before it or meets it twice
 */
export function cutBy(surface: Surface, plan: Sketch, step: string): Bounds {
  const { outer, holes } = outlinesOf(plan, step);
  if (holes.length > 0)
    throw new FormError('sweep/plan', `The plan of “${step}” has a hole, “${holes[0].names[0]}”; cut that with a step of its own.`);
  const { curves, names } = outer;
  const samples = follow(surface, curves, names, step);
  const n = samples.length;
  const end = (which: 0 | 1) => endRun(surface, samples, curves, which);
  const [start, finish] = [end(0), end(1)];
  // The outline runs counter-clockwise with travel to the right: after the start comes the right side (towards +z), then the
  // finish, then the left side backwards. Sections run from left to right seen against travel, so t grows towards −z.
  const between = (a: OnOutline, b: OnOutline): OnOutline[] => {
    const out = [a];
    const from = after(samples, a);
    for (let k = 0; k < n; k++) {
      const s = samples[(from + k) % n];
      if (isBefore(curves.length, a, s, b)) out.push(s);
      else break;
    }
    out.push(b);
    return out;
  };
  const low = between(start.to, finish.from);
  const high = between(finish.to, start.from).reverse();
  for (const side of [low, high]) rising(side, names, step);
  // Whichever side has the smaller shares is the left one.
  const swapped = mid(low)[1] > mid(high)[1];
  const [left, right] = swapped ? [high, low] : [low, high];
  const corners = [low, high].flatMap((side) =>
    side
      .slice(1, -1)
      .filter((o) => isCorner(curves, o))
      .map((o) => o.place[0]),
  );
  return {
    rows: corners,
    left: sideOf(surface, curves, left),
    right: sideOf(surface, curves, right),
    ends: [endOf(surface, curves, start, samples, !swapped), endOf(surface, curves, finish, samples, swapped)],
  };
}
const mid = (side: readonly OnOutline[]): Place => side[side.length >> 1].place;

/** The outline walked round once, every place of it found on the surface. */
function follow(surface: Surface, curves: readonly Curve[], names: readonly string[], step: string): OnOutline[] {
  const { long } = surface;
  const out: OnOutline[] = [];
  let near = nearest(surface, curves[0].a);
  for (const [i, c] of curves.entries()) {
    const k = samplesOn(c);
    for (let j = 0; j < k; j++) {
      const plan = pointAt(c, j / k);
      const place = under(surface.at, plan, near, long) ?? under(surface.at, plan, nearest(surface, plan), long);
      if (!place)
        throw new FormError(
          'sweep/plan',
          `The sweep of “${step}” isn’t under “${names[i]}” of its plan near ${spot(plan)}: it stands upright or ends there.`,
        );
      out.push({ curve: i, share: j / k, plan, place });
      near = place;
    }
  }
  within(surface, out, names, step);
  return out;
}
const spot = (p: Point2): string => `${millimetres(p[0], 1)}, ${millimetres(p[1], 1)}`;

/** @throws FormError when the surface ends before the plan does, at the worst place, with how much is missing there */
function within(surface: Surface, outline: readonly OnOutline[], names: readonly string[], step: string): void {
  const { long } = surface;
  let worst = { missing: 0, o: outline[0], path: false };
  for (const o of outline) {
    const [s, t] = o.place;
    const beyond = Math.max(-s, s - long);
    if (beyond > RUN_ON * long && beyond > worst.missing) worst = { missing: beyond, o, path: true };
    if (t >= 0 && t <= 1) continue;
    const edge = seen(surface.at(s, t < 0 ? 0 : 1));
    const missing = Math.hypot(edge[0] - o.plan[0], edge[1] - o.plan[1]);
    if (missing > PAST && missing > worst.missing) worst = { missing, o, path: false };
  }
  const { missing, o, path } = worst;
  if (missing === 0) return;
  const where = `“${names[o.curve]}” of its plan near ${spot(o.plan)}`;
  throw new FormError(
    'sweep/plan',
    path
      ? `The path of “${step}” ends ${millimetres(missing, 1)} before ${where}; make it longer.`
      : `The sections of “${step}” end ${millimetres(missing, 2)} inside ${where}; make them wider.`,
    { missingMm: missing },
  );
}

/** A place to begin looking from. */
function nearest(surface: Surface, plan: Point2): Place {
  let best: Place = [0, 0];
  let least = Number.POSITIVE_INFINITY;
  for (let i = 0; i <= 40; i++) {
    const row = surface.row((i / 40) * surface.long);
    for (let j = 0; j <= 20; j++) {
      const p = seen(row(j / 20));
      const d = (p[0] - plan[0]) ** 2 + (p[1] - plan[1]) ** 2;
      if (d < least) [best, least] = [[(i / 40) * surface.long, j / 20], d];
    }
  }
  return best;
}

/** Whether the outline runs more across than along the sweep at a place of it. */
function isAcross(surface: Surface, curves: readonly Curve[], o: OnOutline): boolean {
  const [s, t] = o.place;
  const h = surface.long * 1e-4;
  const [a, b] = [seen(surface.at(s - h, t)), seen(surface.at(s + h, t))];
  const along: Point2 = [b[0] - a[0], b[1] - a[1]];
  const d = directionAt(curves[o.curve], o.share);
  return Math.abs(along[0] * d[1] - along[1] * d[0]) > Math.abs(along[0] * d[0] + along[1] * d[1]);
}

interface EndRun {
  from: OnOutline;
  to: OnOutline;
  pole: boolean;
}

/** The part of the outline that closes one end, in the outline’s direction. */
function endRun(surface: Surface, samples: readonly OnOutline[], curves: readonly Curve[], which: 0 | 1): EndRun {
  const n = samples.length;
  const sign = which === 0 ? 1 : -1;
  let far = 0;
  for (let i = 1; i < n; i++) if (sign * samples[i].place[0] < sign * samples[far].place[0] - 1e-9) far = i;
  const at = (i: number) => samples[((i % n) + n) % n];
  // A sample's own direction is that of what follows it.
  const across = samples.map((o) => isAcross(surface, curves, o));
  const is = (i: number) => across[((i % n) + n) % n];
  const ahead = is(far);
  const behind = is(far - 1);
  if (!ahead && !behind) return { from: at(far), to: at(far), pole: true };
  let [b, a] = [far, far];
  if (ahead) while (b - far < n - 2 && is(b)) b++;
  if (behind) while (far - a < n - 2 && is(a - 1)) a--;
  const exact = (i: number): OnOutline => {
    // Between sample i − 1 and i the outline turns from one into the other; at a joint it turns right there.
    const [p, q] = [at(i - 1), at(i)];
    if (p.curve !== q.curve && q.share === 0 && !turnsWithin(surface, curves, p)) return q;
    let [low, high] = [p.share, p.curve === q.curve ? q.share : 1];
    const first = isAcross(surface, curves, p);
    for (let k = 0; k < 40; k++) {
      const share = (low + high) / 2;
      const o = onCurve(surface, curves, p.curve, share, p.place);
      if (isAcross(surface, curves, o) === first) low = share;
      else high = share;
    }
    return onCurve(surface, curves, p.curve, (low + high) / 2, p.place);
  };
  return { from: exact(a), to: exact(b), pole: false };
}

/** Whether the rest of a curve, from a sample on it, changes between across and along. */
function turnsWithin(surface: Surface, curves: readonly Curve[], p: OnOutline): boolean {
  const last = onCurve(surface, curves, p.curve, 1 - 1e-9, p.place);
  return isAcross(surface, curves, p) !== isAcross(surface, curves, last);
}

function onCurve(surface: Surface, curves: readonly Curve[], curve: number, share: number, near: Place): OnOutline {
  const plan = pointAt(curves[curve], share);
  return { curve, share, plan, place: under(surface.at, plan, near, surface.long) ?? near };
}

const order = (o: OnOutline): number => o.curve + o.share;
/** The first sample after a place. */
function after(samples: readonly OnOutline[], o: OnOutline): number {
  const i = samples.findIndex((s) => order(s) > order(o) + 1e-9);
  return i < 0 ? 0 : i;
}
/** Whether x comes before b, going round from a. */
function isBefore(whole: number, a: OnOutline, x: OnOutline, b: OnOutline): boolean {
  const ahead = (o: OnOutline) => (((order(o) - order(a)) % whole) + whole) % whole;
  return ahead(x) > 1e-6 && ahead(x) < ahead(b) - 1e-6;
}
function isCorner(curves: readonly Curve[], o: OnOutline): boolean {
  return o.share === 0 && isSharp(curves[(o.curve + curves.length - 1) % curves.length], curves[o.curve]);
}

/** Of what a side travels, how much has to lead on. */
const LEAST_LEAD = 0.02;

/** @throws FormError when a side doesn't lead on along the path */
function rising(side: OnOutline[], names: readonly string[], step: string): void {
  const up = side[side.length - 1].place[0] >= side[0].place[0] ? 1 : -1;
  for (let i = 1; i < side.length; i++) {
    const [o, next] = [side[i - 1], side[i]];
    const far = Math.hypot(next.plan[0] - o.plan[0], next.plan[1] - o.plan[1]);
    if (up * (next.place[0] - o.place[0]) < LEAST_LEAD * far)
      throw new FormError(
        'sweep/plan',
        `“${names[o.curve]}” of the plan of “${step}” runs across the sweep or back near ${spot(o.plan)}: a section has to meet each side once. Make what lies beyond it a part of its own.`,
      );
  }
  if (up < 0) side.reverse();
}

/** A side by where it is along the path, exact: the section there meets the outline. */
function sideOf(surface: Surface, curves: readonly Curve[], side: readonly OnOutline[]): (s: number) => OnOutline {
  return (s) => {
    const i = Math.max(
      1,
      Math.min(
        side.length - 1,
        side.findIndex((o) => o.place[0] >= s),
      ),
    );
    const [p, q] = s > side[side.length - 1].place[0] ? side.slice(-2) : [side[i - 1], side[i]];
    if (Math.abs(s - p.place[0]) < 1e-9) return p;
    if (Math.abs(s - q.place[0]) < 1e-9) return q;
    // Both lie on one curve: a joint is a sample, and belongs to the curve that begins there.
    const curve = p.curve === q.curve || p.share !== 0 ? p.curve : q.curve;
    const shareOn = (o: OnOutline) => (o.curve === curve ? o.share : 1);
    const row = surface.row(s);
    const f = (s - p.place[0]) / (q.place[0] - p.place[0]);
    let share = shareOn(p) + f * (shareOn(q) - shareOn(p));
    let t = p.place[1] + f * (q.place[1] - p.place[1]);
    const c = curves[curve];
    const length = curveLength(c);
    for (let k = 0; k < STEPS; k++) {
      const [at, on] = [seen(row(t)), pointAt(c, share)];
      const r: Point2 = [at[0] - on[0], at[1] - on[1]];
      if (Math.hypot(r[0], r[1]) < NEAR) break;
      const b = seen(row(t + 1e-6));
      const [tx, ty] = [(b[0] - at[0]) / 1e-6, (b[1] - at[1]) / 1e-6];
      const d = directionAt(c, share);
      const [cx, cy] = [-d[0] * length, -d[1] * length];
      const det = tx * cy - ty * cx;
      t -= (r[0] * cy - r[1] * cx) / det;
      share -= (tx * r[1] - ty * r[0]) / det;
    }
    return { curve, share, plan: pointAt(c, share), place: [s, t] };
  };
}

/** An end from the left side to the right one. */
function endOf(surface: Surface, curves: readonly Curve[], run: EndRun, samples: readonly OnOutline[], along: boolean): End {
  if (run.pole) return { pole: true, at: () => run.from, corners: [], share: () => 0 };
  const list = [run.from];
  const begin = after(samples, run.from);
  for (let k = 0; k < samples.length; k++) {
    const s = samples[(begin + k) % samples.length];
    if (!isBefore(curves.length, run.from, s, run.to)) break;
    list.push(s);
  }
  list.push(run.to);
  const lengths = [0];
  for (let i = 1; i < list.length; i++)
    lengths.push(lengths[i - 1] + Math.hypot(list[i].plan[0] - list[i - 1].plan[0], list[i].plan[1] - list[i - 1].plan[1]));
  const whole = lengths[lengths.length - 1];
  const own = (far: number): OnOutline => {
    const i = Math.max(
      1,
      Math.min(
        list.length - 1,
        lengths.findIndex((l) => l >= far - 1e-12),
      ),
    );
    const [p, q] = [list[i - 1], list[i]];
    const f = (far - lengths[i - 1]) / Math.max(1e-12, lengths[i] - lengths[i - 1]);
    if (f <= 1e-12) return p;
    if (f >= 1 - 1e-12) return q;
    const to = q.curve === p.curve ? q.share : 1;
    const near: Place = [p.place[0] + f * (q.place[0] - p.place[0]), p.place[1] + f * (q.place[1] - p.place[1])];
    return onCurve(surface, curves, p.curve, p.share + f * (to - p.share), near);
  };
  // The outline crosses the start from the high shares to the low ones, or the other way about.
  const at = (u: number): OnOutline => own((along ? 1 - u : u) * whole);
  return {
    pole: false,
    at,
    corners: list
      .map((o, i) => ({ o, u: along ? 1 - lengths[i] / whole : lengths[i] / whole }))
      .slice(1, -1)
      .filter(({ o }) => isCorner(curves, o))
      .map(({ u }) => u)
      .sort((a, b) => a - b),
    share(t) {
      let [low, high] = [0, 1];
      for (let k = 0; k < 50; k++) {
        const u = (low + high) / 2;
        if (at(u).place[1] < t) low = u;
        else high = u;
      }
      return (low + high) / 2;
    },
  };
}
