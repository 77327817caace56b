import { FormError } from '../errors';
import { figure, millimetres } from '../units/lengths';
import {
  arcByBulge,
  arcByTangent,
  type Curve,
  curveLength,
  fillet,
  gap,
  largestFillet,
  line,
  meet,
  offset,
  type Point2,
  pointAt,
  shareOf,
  tangentAt,
  trim,
  turnBetween,
} from './curves';

/** A corner of a profile: radius from the axis and height, mm. */
export interface ProfilePoint {
  id: string;
  r: number;
  y: number;
  /** Radius of the rounded corner, mm; in both meshes. */
  fillet?: number;
}

/** What joins a point to the next. `bulge` (mm, outward positive) is for `arc`; `tangent` continues the one before it. */
export interface ProfileSegment {
  id: string;
  /** The patch's name: `wall`, `rim`, `foot`. */
  name: string;
  kind: 'line' | 'arc' | 'tangent';
  bulge?: number;
}

/** A half-profile that is turned about the y axis, mm. */
export interface Profile {
  points: ProfilePoint[];
  /** One fewer than points: from the foot upward on the outside. */
  segments: ProfileSegment[];
}

/** A ring engraved into a straight segment, in the high mesh only. */
export interface EngravedRing {
  segment: string;
  /** Share 0…1 of the way along the segment. */
  at: number;
  width: number;
  depth: number;
}

/** How a profile becomes a body: as it is, closed to the axis, or with an inside wall. */
export type Body = 'open' | 'solid' | 'wall';

/** One curve of the finished profile with the patch it makes. */
export interface Stretch {
  curve: Curve;
  /** Made of ids, so that it outlives names, counts and neighbours: `s2`, `p1.fillet`, `s2 inside`, `rim`. */
  patch: string;
  /** What people call it: `belly`. */
  label: string;
  /** The shares of the patch its ends stand at: an engraved wall is one patch in several stretches. */
  v: readonly [number, number];
  /** Key of its count of segments, for arcs. */
  count: string;
  /** The corner before this stretch is sharp. */
  sharpBefore: boolean;
}

const SHARP = (8 * Math.PI) / 180;
const WHOLE: readonly [number, number] = [0, 1];

/** A drawn line from foot to top: curves with their ids and names, and the roundings wanted at the corner before each. */
export interface Drawn {
  curves: Curve[];
  names: string[];
  ids: string[];
  fillets: number[];
  /** Id of the corner before each curve. */
  corners: string[];
  /** It comes back to its start, counter-clockwise: a ring beside the axis. */
  closed?: boolean;
}

/** The curves of the drawn profile, before any rounding. @throws FormError in one sentence */
export function drawnCurves(profile: Profile): Drawn {
  const { points, segments } = profile;
  if (points.length < 2) throw new FormError('profile/points', 'A profile needs at least two points.');
  if (segments.length !== points.length - 1)
    throw new FormError(
      'profile/segments',
      `A profile of ${points.length} points needs ${points.length - 1} segments, not ${segments.length}.`,
    );
  for (const [i, p] of points.entries()) {
    if (!Number.isFinite(p.r) || !Number.isFinite(p.y))
      throw new FormError('profile/number', `Point ${i + 1} of the profile has no position.`);
    if (p.r < 0)
      throw new FormError(
        'profile/radius',
        `Point ${i + 1} lies ${millimetres(-p.r)} on the other side of the axis; its radius must be 0 or more.`,
      );
  }
  const curves: Curve[] = [];
  for (const [i, s] of segments.entries()) {
    const [a, b]: [Point2, Point2] = [
      [points[i].r, points[i].y],
      [points[i + 1].r, points[i + 1].y],
    ];
    if (gap(a, b) < 1e-6) throw new FormError('profile/double', `Points ${i + 1} and ${i + 2} of the profile are in the same place.`);
    if (s.kind === 'arc') curves.push(arcByBulge(a, b, s.bulge ?? 0));
    else if (s.kind === 'tangent' && i > 0) curves.push(arcByTangent(a, b, tangentAt(curves[i - 1], 1)));
    else curves.push(line(a, b));
  }
  return {
    curves,
    names: segments.map((s) => s.name),
    ids: segments.map((s) => s.id),
    fillets: points.map((p) => p.fillet ?? 0),
    corners: points.map((p) => p.id),
  };
}

/** How a profile becomes an outline. */
export interface ProfileOptions {
  body: Body;
  /** Whether the drawn line is the outside of the wall or its inside. */
  drawnIs?: 'outside' | 'inside';
  /** Thickness of the inside wall, mm, for `wall`. */
  wall?: number;
  /** For the high mesh: radius given to every corner still sharp, mm (as much of it as fits). */
  edgeRadius?: number;
  rings?: readonly EngravedRing[];
}

/**
 * The finished outline of a turned body: drawn curves, rounded corners, closed or walled, with the high mesh's edges and
 * engraved rings when asked for.
 *
 * @returns stretches in order; `closed` when the outline comes back to its start
 * @throws FormError `profile/…` naming the corner and the largest radius or wall that fits
 */
export function outlineOf(drawn: Drawn, options: ProfileOptions): { stretches: Stretch[]; closed: boolean } {
  let list = drawn.curves.map((curve, i): Stretch => {
    const id = drawn.ids[i];
    return { curve, patch: id, label: drawn.names[i], count: id, v: WHOLE, sharpBefore: true };
  });
  const rounded: Stretch[] = [list[0]];
  for (let i = 1; i < list.length; i++) {
    const before = rounded[rounded.length - 1];
    const radius = drawn.fillets[i];
    if (!(radius > 0)) {
      rounded.push(list[i]);
      continue;
    }
    const made = fillet(before.curve, list[i].curve, radius);
    if (!made) {
      const most = largestFillet(before.curve, list[i].curve);
      throw new FormError(
        'profile/fillet',
        `A radius of ${millimetres(radius)} does not fit at point ${i + 1}; ${millimetres(Math.floor(most * 100) / 100)} is the most there.`,
        { radiusMm: radius, mostMm: most },
      );
    }
    before.curve = made[0];
    const id = `${drawn.corners[i]}.fillet`;
    rounded.push({ curve: made[1], patch: id, label: `${list[i].label} edge`, count: id, v: WHOLE, sharpBefore: false });
    rounded.push({ ...list[i], curve: made[2] });
  }
  list = rounded.filter((s) => curveLength(s.curve) > 1e-7);
  if (options.body === 'wall' && options.drawnIs === 'inside') {
    const out = movedOut(list, options.wall ?? 0);
    list = list.map((s, i) => ({ ...s, curve: out[i] }));
  }

  let closed = drawn.closed ?? false;
  const first = list[0].curve.a;
  const last = list[list.length - 1].curve.b;
  const flat = (a: Point2, b: Point2, patch: string): Stretch => ({
    curve: line(a, b),
    patch,
    label: patch,
    count: patch,
    v: WHOLE,
    sharpBefore: true,
  });
  if (closed) {
    // A ring is closed as it is, whatever the body.
  } else if (options.body === 'solid') {
    if (first[0] > 1e-9) list.unshift(flat([0, first[1]], first, 'foot cap'));
    if (last[0] > 1e-9) list.push(flat(last, [0, last[1]], 'top cap'));
  } else if (options.body === 'wall') {
    const inner = insideWall(list, options.wall ?? 0);
    const [innerTop, innerFoot] = [inner[0].curve.a, inner[inner.length - 1].curve.b];
    if (gap(last, innerTop) > 1e-7) list.push(flat(last, innerTop, 'rim'));
    list.push(...inner);
    if (gap(innerFoot, first) > 1e-7 && !(innerFoot[0] < 1e-9 && first[0] < 1e-9)) list.push(flat(innerFoot, first, 'foot rim'));
    closed = !(first[0] < 1e-9);
  }

  if (options.rings?.length) list = engrave(list, options.rings, drawn.ids);
  if (options.edgeRadius) list = roundAll(list, options.edgeRadius, closed);
  markSharp(list, closed);
  return { stretches: list, closed };
}

/** A drawn inside moved outward by the wall: the outside that leaves just that much room. */
function movedOut(list: readonly Stretch[], wall: number): Curve[] {
  const turned = list.map((s) => offset(s.curve, -wall));
  const axis = line([0, -1e6], [0, 1e6]);
  const near = (points: Point2[], p: Point2): Point2 | undefined => points.sort((a, b) => gap(a, p) - gap(b, p))[0];
  const fits = () => new FormError('profile/wall', `A wall of ${millimetres(wall)} does not fit outside the profile.`, { wallMm: wall });
  if (!(wall > 0)) throw new FormError('profile/wall', 'A wall needs a thickness above 0 mm.');
  const moved = turned.map((c) => {
    if (!c) throw fits();
    return c;
  });
  const joints = moved.slice(1).map((c, i) => {
    const smooth = Math.abs(turnBetween(list[i].curve, list[i + 1].curve)) < 1e-6;
    const at = smooth ? moved[i].b : near(meet(moved[i], c), list[i].curve.b);
    if (!at) throw fits();
    return at;
  });
  const onAxis = (c: Curve, p: Point2, drawn: Point2): Point2 => (drawn[0] < 1e-9 ? (near(meet(c, axis), p) ?? p) : p);
  const last = moved.length - 1;
  return moved.map((c, i) => {
    const a = i === 0 ? onAxis(c, c.a, list[0].curve.a) : joints[i - 1];
    const b = i === last ? onAxis(c, c.b, list[last].curve.b) : joints[i];
    const [s, t] = [shareOf(c, a), shareOf(c, b)];
    if (t - s <= 1e-9) throw fits();
    return c.kind === 'line' ? line(a, b) : { ...c, a, b, sweep: c.sweep * (t - s) };
  });
}

/** The outline moved inward by the wall and run back from the top to the foot. */
function insideWall(list: readonly Stretch[], wall: number): Stretch[] {
  if (!(wall > 0)) throw new FormError('profile/wall', 'An inside wall needs a thickness above 0 mm.');
  const tooThick = (i: number) =>
    new FormError(
      'profile/wall',
      `A wall of ${millimetres(wall)} does not fit inside “${list[i].label}”; the inside would cross itself there.`,
      { wallMm: wall },
    );
  // A rounding tighter than the wall has no inside of its own: its neighbours meet in a sharp corner there.
  const kept = list.map((source, index) => ({ source, index, curve: offset(source.curve, wall) })).filter((k) => k.curve !== null);
  if (kept.length === 0) throw tooThick(0);
  const moved = kept.map((k) => k.curve as Curve);
  const start = list[0].curve.a;
  const end = list[list.length - 1].curve.b;
  // Ends on the axis stay on it: the moved curve is cut where it meets r = 0.
  const axis = line([0, -1e6], [0, 1e6]);
  const joints: Point2[] = [];
  for (let i = 0; i + 1 < moved.length; i++) {
    const [p, q] = [kept[i], kept[i + 1]];
    const adjacent = q.index === p.index + 1;
    if (adjacent && Math.abs(turnBetween(p.source.curve, q.source.curve)) < 1e-6) joints.push(moved[i].b);
    else {
      const near = meet(moved[i], moved[i + 1]).sort((a, b) => gap(a, p.source.curve.b) - gap(b, p.source.curve.b))[0];
      if (!near) throw tooThick(p.index);
      joints.push(near);
    }
  }
  const onAxis = (c: Curve, p: Point2): Point2 => meet(c, axis).sort((a, b) => gap(a, p) - gap(b, p))[0] ?? p;
  const from = start[0] < 1e-9 ? onAxis(moved[0], start) : moved[0].a;
  const to = end[0] < 1e-9 ? onAxis(moved[moved.length - 1], end) : moved[moved.length - 1].b;
  const inside: Stretch[] = [];
  for (let i = 0; i < moved.length; i++) {
    const a = i === 0 ? from : joints[i - 1];
    const b = i === moved.length - 1 ? to : joints[i];
    const [s, t] = [shareOf(moved[i], a), shareOf(moved[i], b)];
    if (t - s <= 1e-9 || a[0] < -1e-9 || b[0] < -1e-9) throw tooThick(kept[i].index);
    const cut = trim(moved[i], s, t);
    const back: Curve = cut.kind === 'line' ? line(b, a) : { ...cut, a: b, b: a, sweep: -cut.sweep };
    inside.unshift({
      curve: { ...back, a: b, b: a } as Curve,
      patch: `${kept[i].source.patch} inside`,
      label: `${kept[i].source.label} inside`,
      v: WHOLE,
      count: `${kept[i].source.count}.inside`,
      sharpBefore: true,
    });
  }
  return inside;
}

/** Cuts each ring into its straight segment as an arc that dips inward. */
function engrave(list: Stretch[], rings: readonly EngravedRing[], ids: readonly string[]): Stretch[] {
  const out: Stretch[] = [];
  for (const s of list) {
    const mine = rings.filter((g) => g.segment === s.count && ids.includes(g.segment)).sort((a, b) => a.at - b.at);
    if (mine.length === 0 || s.curve.kind !== 'line') {
      out.push(s);
      continue;
    }
    const long = curveLength(s.curve);
    let done = 0;
    for (const [i, g] of mine.entries()) {
      const from = g.at - g.width / 2 / long;
      const to = g.at + g.width / 2 / long;
      if (from <= done + 1e-6 || to >= 1 - 1e-6)
        throw new FormError(
          'profile/ring',
          `An engraved ring ${millimetres(g.width)} wide does not fit at ${figure(g.at * 100, 0)} % of “${s.label}”.`,
          { widthMm: g.width },
        );
      out.push({ ...s, curve: trim(s.curve, done, from), v: [done, from] });
      out.push({
        curve: arcByBulge(pointAt(s.curve, from), pointAt(s.curve, to), -g.depth),
        patch: s.patch,
        label: s.label,
        v: [from, to],
        count: `${s.count}.ring${i}`,
        sharpBefore: true,
      });
      done = to;
    }
    out.push({ ...s, curve: trim(s.curve, done, 1), v: [done, 1] });
  }
  return out;
}

/** Rounds every corner still sharp with as much of `radius` as fits beside its neighbours. */
function roundAll(list: Stretch[], radius: number, closed: boolean): Stretch[] {
  const n = list.length;
  const work = list.map((s) => ({ ...s }));
  const arcs: (Stretch | undefined)[] = new Array(n);
  for (let i = closed ? 0 : 1; i < n; i++) {
    const p = work[(i + n - 1) % n];
    const q = work[i];
    if (gap(p.curve.b, q.curve.a) > 1e-6 || Math.abs(turnBetween(p.curve, q.curve)) < SHARP || q.curve.a[0] < 1e-6) continue;
    // Each curve gives at most 45 % of what is left of it, so that both its ends can be rounded.
    const halfP = curveLength(p.curve) * 0.45;
    const halfQ = curveLength(q.curve) * 0.45;
    const bound = Math.min(halfP, halfQ) / Math.tan(Math.abs(turnBetween(p.curve, q.curve)) / 2);
    let made: ReturnType<typeof fillet> = null;
    let r = Math.min(radius, bound);
    for (let tries = 0; tries < 12 && !made; tries++, r *= 0.7) made = fillet(p.curve, q.curve, r);
    if (!made) continue;
    // What is left of each keeps its own share of the patch, so that low and high agree about places on it.
    const shareAt = (s: Stretch, at: number) => s.v[0] + at * (s.v[1] - s.v[0]);
    p.v = [p.v[0], shareAt(p, shareOf(p.curve, made[0].b))];
    q.v = [shareAt(q, shareOf(q.curve, made[2].a)), q.v[1]];
    p.curve = made[0];
    q.curve = made[2];
    arcs[i] = {
      curve: made[1],
      patch: `${q.patch} edge`,
      label: `${q.label} edge`,
      count: `${q.count}.edge`,
      v: WHOLE,
      sharpBefore: false,
    };
  }
  const out: Stretch[] = [];
  for (let i = 0; i < n; i++) {
    const arc = arcs[i];
    if (arc) out.push(arc);
    out.push(work[i]);
  }
  return out.filter((s) => curveLength(s.curve) > 1e-7);
}

function markSharp(list: Stretch[], closed: boolean): void {
  for (let i = 0; i < list.length; i++) {
    const before = i > 0 ? list[i - 1] : closed ? list[list.length - 1] : undefined;
    list[i].sharpBefore = !before || Math.abs(turnBetween(before.curve, list[i].curve)) >= SHARP;
  }
}
