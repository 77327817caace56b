/** Plane curves of a profile: straight lines and circular arcs in (r, y), mm. */
export type Point2 = readonly [number, number];

/** A straight curve from `a` to `b`, mm. */
export interface Line {
  kind: 'line';
  a: Point2;
  b: Point2;
}
/** A part of a circle from `a` to `b`, mm. */
export interface Arc {
  kind: 'arc';
  a: Point2;
  b: Point2;
  centre: Point2;
  radius: number;
  /** Angle turned from a to b, radians; positive is counter-clockwise. */
  sweep: number;
}
/** A piece of an outline. */
export type Curve = Line | Arc;

export const line = (a: Point2, b: Point2): Line => ({ kind: 'line', a, b });
export const gap = (a: Point2, b: Point2): number => Math.hypot(a[0] - b[0], a[1] - b[1]);

/** The arc from a to b that stands `bulge` mm off its chord, to the right of the way from a to b when positive. */
export function arcByBulge(a: Point2, b: Point2, bulge: number): Curve {
  const chord = gap(a, b);
  if (chord === 0 || Math.abs(bulge) < 1e-9) return line(a, b);
  const radius = (chord * chord) / (8 * Math.abs(bulge)) + Math.abs(bulge) / 2;
  const half = 2 * Math.atan2(2 * Math.abs(bulge), chord);
  const [dx, dy] = [(b[0] - a[0]) / chord, (b[1] - a[1]) / chord];
  // Bulging to the right turns counter-clockwise; the centre then lies to the left of the chord.
  const side = bulge > 0 ? 1 : -1;
  const off = side * (radius - Math.abs(bulge));
  const centre: Point2 = [(a[0] + b[0]) / 2 - dy * off, (a[1] + b[1]) / 2 + dx * off];
  return { kind: 'arc', a, b, centre, radius, sweep: side * 2 * half };
}

/** The arc from a to b that leaves a in the direction `d` (unit). A straight continuation gives a line. */
export function arcByTangent(a: Point2, b: Point2, d: Point2): Curve {
  const [cx, cy] = [b[0] - a[0], b[1] - a[1]];
  const turn = Math.atan2(d[0] * cy - d[1] * cx, d[0] * cx + d[1] * cy);
  // The chord of an arc leans half its sweep away from the tangent; a bulge to the right goes with a left turn.
  return arcByBulge(a, b, (gap(a, b) / 2) * Math.tan(turn / 2));
}

export const curveLength = (c: Curve): number => (c.kind === 'line' ? gap(c.a, c.b) : c.radius * Math.abs(c.sweep));

/** Unit direction of travel at the start (0) or end (1). */
export function tangentAt(c: Curve, end: 0 | 1): Point2 {
  if (c.kind === 'line') {
    const l = gap(c.a, c.b) || 1;
    return [(c.b[0] - c.a[0]) / l, (c.b[1] - c.a[1]) / l];
  }
  const p = end === 0 ? c.a : c.b;
  const s = Math.sign(c.sweep);
  return [(-s * (p[1] - c.centre[1])) / c.radius, (s * (p[0] - c.centre[0])) / c.radius];
}

/** Unit direction of travel at a share of the way along. */
export function directionAt(c: Curve, share: number): Point2 {
  if (c.kind === 'line') return tangentAt(c, 0);
  const p = pointAt(c, share);
  const s = Math.sign(c.sweep);
  return [(-s * (p[1] - c.centre[1])) / c.radius, (s * (p[0] - c.centre[0])) / c.radius];
}

/** The point at a share 0…1 of the way along. */
export function pointAt(c: Curve, t: number): Point2 {
  if (c.kind === 'line') return [c.a[0] + (c.b[0] - c.a[0]) * t, c.a[1] + (c.b[1] - c.a[1]) * t];
  if (t === 0) return c.a;
  if (t === 1) return c.b;
  const from = Math.atan2(c.a[1] - c.centre[1], c.a[0] - c.centre[0]);
  const angle = from + c.sweep * t;
  return [c.centre[0] + c.radius * Math.cos(angle), c.centre[1] + c.radius * Math.sin(angle)];
}

/** The share of the way along at which a point on the curve (or on its continuation) stands. */
export function shareOf(c: Curve, p: Point2): number {
  if (c.kind === 'line') {
    const l2 = (c.b[0] - c.a[0]) ** 2 + (c.b[1] - c.a[1]) ** 2;
    return l2 === 0 ? 0 : ((p[0] - c.a[0]) * (c.b[0] - c.a[0]) + (p[1] - c.a[1]) * (c.b[1] - c.a[1])) / l2;
  }
  const from = Math.atan2(c.a[1] - c.centre[1], c.a[0] - c.centre[0]);
  let turn = Math.atan2(p[1] - c.centre[1], p[0] - c.centre[0]) - from;
  // The turn nearest to the middle of the sweep, so that points just outside either end come out just outside 0…1.
  const middle = c.sweep / 2;
  turn -= 2 * Math.PI * Math.round((turn - middle) / (2 * Math.PI));
  return turn / c.sweep;
}

/** The part of a curve between two shares of it. */
export function trim(c: Curve, from: number, to: number): Curve {
  const a = pointAt(c, from);
  const b = pointAt(c, to);
  return c.kind === 'line' ? line(a, b) : { ...c, a, b, sweep: c.sweep * (to - from) };
}

/** The curve moved `d` mm to its left. An arc that would turn inside out returns null. */
export function offset(c: Curve, d: number): Curve | null {
  const move = (p: Point2, t: Point2): Point2 => [p[0] - t[1] * d, p[1] + t[0] * d];
  const a = move(c.a, tangentAt(c, 0));
  const b = move(c.b, tangentAt(c, 1));
  if (c.kind === 'line') return line(a, b);
  const radius = c.radius - Math.sign(c.sweep) * d;
  return radius <= 1e-9 ? null : { ...c, a, b, radius };
}

/** Where two curves, continued as far as needed, meet. */
export function meet(p: Curve, q: Curve): Point2[] {
  if (p.kind === 'line' && q.kind === 'line') {
    const [d, e] = [tangentAt(p, 0), tangentAt(q, 0)];
    const det = d[0] * e[1] - d[1] * e[0];
    if (Math.abs(det) < 1e-9) return [];
    const t = ((q.a[0] - p.a[0]) * e[1] - (q.a[1] - p.a[1]) * e[0]) / det;
    return [[p.a[0] + t * d[0], p.a[1] + t * d[1]]];
  }
  if (p.kind === 'line' || q.kind === 'line') {
    const [l, c] = (p.kind === 'line' ? [p, q] : [q, p]) as [Line, Arc];
    const d = tangentAt(l, 0);
    const t = (c.centre[0] - l.a[0]) * d[0] + (c.centre[1] - l.a[1]) * d[1];
    const foot: Point2 = [l.a[0] + t * d[0], l.a[1] + t * d[1]];
    const h2 = c.radius ** 2 - gap(foot, c.centre) ** 2;
    if (h2 < -1e-9 * c.radius) return [];
    const h = Math.sqrt(Math.max(0, h2));
    return [
      [foot[0] - h * d[0], foot[1] - h * d[1]],
      [foot[0] + h * d[0], foot[1] + h * d[1]],
    ];
  }
  const d = gap(p.centre, q.centre);
  if (d < 1e-9) return [];
  const along = (d * d + p.radius ** 2 - q.radius ** 2) / (2 * d);
  const h2 = p.radius ** 2 - along ** 2;
  if (h2 < -1e-9 * p.radius) return [];
  const h = Math.sqrt(Math.max(0, h2));
  const [ux, uy] = [(q.centre[0] - p.centre[0]) / d, (q.centre[1] - p.centre[1]) / d];
  const foot: Point2 = [p.centre[0] + along * ux, p.centre[1] + along * uy];
  return [
    [foot[0] - h * uy, foot[1] + h * ux],
    [foot[0] + h * uy, foot[1] - h * ux],
  ];
}

const nearest = (points: Point2[], to: Point2): Point2 | undefined =>
  points.reduce<Point2 | undefined>((best, p) => (!best || gap(p, to) < gap(best, to) ? p : best), undefined);

function foot(c: Curve, p: Point2): Point2 {
  if (c.kind === 'line') return pointAt(c, shareOf(c, p));
  const d = gap(c.centre, p) || 1;
  return [c.centre[0] + ((p[0] - c.centre[0]) * c.radius) / d, c.centre[1] + ((p[1] - c.centre[1]) * c.radius) / d];
}

/** Angle in radians by which the way turns from one curve into the next; positive is to the left. */
export function turnBetween(p: Curve, q: Curve): number {
  const d = tangentAt(p, 1);
  const e = tangentAt(q, 0);
  return Math.atan2(d[0] * e[1] - d[1] * e[0], d[0] * e[0] + d[1] * e[1]);
}

/** A corner to keep from one curve to the next: a turn of more than 20°. */
export const isSharp = (p: Curve, q: Curve): boolean => Math.abs(turnBetween(p, q)) > (20 * Math.PI) / 180;

/**
 * Rounds the corner between two curves with an arc of `radius`: its centre is where both, moved by the radius to the
 * inner side of the turn, meet.
 *
 * @returns the trimmed first curve, the arc, the trimmed second one; null when the arc doesn't fit on them
 */
export function fillet(p: Curve, q: Curve, radius: number): [Curve, Arc, Curve] | null {
  const turn = turnBetween(p, q);
  if (Math.abs(turn) < 1e-6 || radius <= 0) return null;
  const side = turn > 0 ? radius : -radius;
  const [po, qo] = [offset(p, side), offset(q, side)];
  const centre = po && qo && nearest(meet(po, qo), p.b);
  if (!centre) return null;
  const a = foot(p, centre);
  const b = foot(q, centre);
  const [s, t] = [shareOf(p, a), shareOf(q, b)];
  if (s < -1e-9 || s > 1 || t < 0 || t > 1 + 1e-9) return null;
  let sweep = Math.atan2(b[1] - centre[1], b[0] - centre[0]) - Math.atan2(a[1] - centre[1], a[0] - centre[0]);
  if (turn > 0 && sweep <= 0) sweep += 2 * Math.PI;
  if (turn < 0 && sweep >= 0) sweep -= 2 * Math.PI;
  if (Math.abs(sweep) > Math.PI + 1e-6) return null;
  const arc: Arc = { kind: 'arc', a, b, centre, radius, sweep };
  return [{ ...trim(p, 0, Math.max(0, s)), b: a }, arc, { ...trim(q, Math.min(1, t), 1), a: b }];
}

/** The largest radius that still fits in a corner, by bisection; 0 when none does. */
export function largestFillet(p: Curve, q: Curve): number {
  let low = 0;
  let high = 4 * (curveLength(p) + curveLength(q));
  for (let i = 0; i < 50; i++) {
    const middle = (low + high) / 2;
    if (fillet(p, q, middle)) low = middle;
    else high = middle;
  }
  return low;
}
