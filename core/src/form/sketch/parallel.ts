import {
  type Arc,
  type Curve,
  curveLength,
  gap,
  line,
  meet,
  offset,
  type Point2,
  pointAt,
  shareOf,
  tangentAt,
  trim,
  turnBetween,
} from '../curves';

/** Curves one after the other. */
export interface Way {
  curves: Curve[];
  closed: boolean;
}

/** Ends nearer than this are one, mm. */
const SAME = 1e-6;
/** A sharp outer corner may stand off by this many distances; beyond it is cut square. */
const MITRE = 4;

/** From a point to the nearest place of a curve, mm. */
export function toCurve(p: Point2, c: Curve): number {
  const t = shareOf(c, p);
  if (t >= 0 && t <= 1) {
    const q = pointAt(c, t);
    return gap(p, q);
  }
  return Math.min(gap(p, c.a), gap(p, c.b));
}

/** Where two curves cross between their ends, ends included. */
export function crossings(p: Curve, q: Curve): Point2[] {
  const on = (c: Curve, x: Point2) => toCurve(x, c) < SAME;
  return meet(p, q).filter((x) => on(p, x) && on(q, x));
}

/**
 * A way moved to its left (negative: right) by a distance, everywhere as far from it as asked: arcs that would turn inside out and
 * loops a corner would make are gone. Pieces that come nearer are found by their distance to the way itself (pairwise, after
 * Choi & Park 1999, *A pair-wise offset algorithm for 2D point-sequence curve*).
 *
 * @param corners how it goes round corners on the outer side: with an arc about them, or on to where both sides meet
 * @returns as many ways as are left: none when there is no room
 */
export function parallel(way: Way, distance: number, corners: 'round' | 'sharp'): Way[] {
  if (Math.abs(distance) < SAME) return [way];
  const raw = rawOffset(way, distance, corners);
  const cut = raw.flatMap((c, i) => splitAt(c, raw, i));
  const far = Math.abs(distance) * (1 - 1e-6) - 1e-7;
  const kept = cut.filter((c) => {
    const p = pointAt(c, 0.5);
    return curveLength(c) > SAME && way.curves.every((w) => toCurve(p, w) > far);
  });
  return chained(kept);
}

function rawOffset({ curves, closed }: Way, d: number, corners: 'round' | 'sharp'): Curve[] {
  const moved = curves.map((c) => {
    const [s, e] = [tangentAt(c, 0), tangentAt(c, 1)];
    const a: Point2 = [c.a[0] - s[1] * d, c.a[1] + s[0] * d];
    const b: Point2 = [c.b[0] - e[1] * d, c.b[1] + e[0] * d];
    return { a, b, curve: offset(c, d) ?? line(a, b), d: s, e };
  });
  const out: Curve[] = [];
  for (const [i, m] of moved.entries()) {
    out.push(m.curve);
    if (i + 1 === moved.length && !closed) break;
    const next = moved[(i + 1) % moved.length];
    if (gap(m.b, next.a) < SAME) continue;
    const turn = turnBetween(curves[i], curves[(i + 1) % curves.length]);
    // A left turn opens a gap on its right.
    const outer = turn > 0 !== d > 0;
    if (!outer) {
      out.push(line(m.b, next.a));
      continue;
    }
    const centre = curves[i].b;
    if (corners === 'round') {
      out.push({ kind: 'arc', a: m.b, b: next.a, centre, radius: Math.abs(d), sweep: turn } satisfies Arc);
      continue;
    }
    const reach = Math.abs(d) * Math.tan(Math.abs(turn) / 2);
    if (Math.abs(turn) > Math.PI - 0.02 || Math.hypot(reach, d) > MITRE * Math.abs(d)) {
      // Too sharp to run on: cut square, a distance beyond the corner.
      const [p, q]: Point2[] = [
        [m.b[0] + m.e[0] * Math.abs(d), m.b[1] + m.e[1] * Math.abs(d)],
        [next.a[0] - next.d[0] * Math.abs(d), next.a[1] - next.d[1] * Math.abs(d)],
      ];
      out.push(line(m.b, p), line(p, q), line(q, next.a));
      continue;
    }
    const tip: Point2 = [m.b[0] + m.e[0] * reach, m.b[1] + m.e[1] * reach];
    out.push(line(m.b, tip), line(tip, next.a));
  }
  return out;
}

/** A curve cut where others cross it. */
function splitAt(c: Curve, all: readonly Curve[], own: number): Curve[] {
  const shares = [0, 1];
  for (const [j, other] of all.entries())
    if (j !== own)
      for (const p of crossings(c, other)) {
        const t = shareOf(c, p);
        if (t > 1e-9 && t < 1 - 1e-9) shares.push(t);
      }
  shares.sort((a, b) => a - b);
  const out: Curve[] = [];
  for (let i = 0; i + 1 < shares.length; i++) if (shares[i + 1] - shares[i] > 1e-9) out.push(trim(c, shares[i], shares[i + 1]));
  return out;
}

/** Pieces put one after the other where an end meets a start; straight ones that go on are made one. */
function chained(pieces: readonly Curve[]): Way[] {
  const left = [...pieces];
  const out: Way[] = [];
  while (left.length > 0) {
    const curves = [left.shift() as Curve];
    for (;;) {
      const end = curves[curves.length - 1].b;
      const next = left.findIndex((c) => gap(c.a, end) < 1e-5);
      if (next < 0) break;
      curves.push(...left.splice(next, 1));
    }
    for (;;) {
      const start = curves[0].a;
      const before = left.findIndex((c) => gap(c.b, start) < 1e-5);
      if (before < 0) break;
      curves.unshift(...left.splice(before, 1));
    }
    const closed = gap(curves[0].a, curves[curves.length - 1].b) < 1e-5;
    out.push({ curves: joinedUp(curves, closed), closed });
  }
  return out;
}

function joinedUp(curves: readonly Curve[], closed: boolean): Curve[] {
  const out: Curve[] = [];
  for (const c of curves) {
    const last = out[out.length - 1];
    // Ends are taken from the piece before, so that they are one place.
    const here: Curve = last ? { ...c, a: last.b } : c;
    if (last && last.kind === 'line' && here.kind === 'line' && Math.abs(turnBetween(last, here)) < 1e-7)
      out[out.length - 1] = line(last.a, here.b);
    else if (
      last &&
      last.kind === 'arc' &&
      here.kind === 'arc' &&
      gap(last.centre, here.centre) < SAME &&
      Math.abs(last.radius - here.radius) < SAME
    )
      out[out.length - 1] = { ...last, b: here.b, sweep: last.sweep + here.sweep };
    else out.push(here);
  }
  const end = out[out.length - 1];
  if (closed && out.length > 1) out[out.length - 1] = { ...end, b: out[0].a };
  return out;
}
