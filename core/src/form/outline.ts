import { FormError } from '../errors';
import { doubleArea } from '../mesh/planar';
import { millimetres } from '../units/lengths';

/** A closed polygon in the plane, mm, counter-clockwise; the last point is joined to the first. */
export type Loop = [number, number][];

/**
 * A closed polygon with every side moved outward by its own distance; inward where it is negative. Counter-clockwise.
 *
 * @param by mm for a side with the given outward direction
 * @throws FormError `outline/room` when a side would be turned round
 */
export function offsetLoop(loop: Loop, by: (normal: readonly [number, number]) => number, what: string): Loop {
  const n = loop.length;
  const sides = loop.map((p, i) => {
    const q = loop[(i + 1) % n];
    const d = [q[0] - p[0], q[1] - p[1]];
    const l = Math.hypot(d[0], d[1]) || 1;
    const normal = [d[1] / l, -d[0] / l] as const;
    return { normal, far: normal[0] * p[0] + normal[1] * p[1] + by(normal), d };
  });
  const out = loop.map((p, i): [number, number] => {
    const [a, b] = [sides[(i + n - 1) % n], sides[i]];
    const det = a.normal[0] * b.normal[1] - a.normal[1] * b.normal[0];
    if (Math.abs(det) < 1e-6) {
      const k = b.far - (b.normal[0] * p[0] + b.normal[1] * p[1]);
      return [p[0] + k * b.normal[0], p[1] + k * b.normal[1]];
    }
    return [(a.far * b.normal[1] - b.far * a.normal[1]) / det, (b.far * a.normal[0] - a.far * b.normal[0]) / det];
  });
  for (const [i, p] of out.entries()) {
    const q = out[(i + 1) % n];
    if ((q[0] - p[0]) * sides[i].d[0] + (q[1] - p[1]) * sides[i].d[1] <= 0)
      throw new FormError(
        'outline/room',
        `${what} leaves a side of ${millimetres(Math.hypot(sides[i].d[0], sides[i].d[1]))} no length: make it smaller.`,
      );
  }
  return out;
}

/** The loop with the largest area of those that turn one way: 1 counter-clockwise, −1 clockwise. */
export function largestLoop(loops: readonly Loop[], sign: 1 | -1): Loop | null {
  return loops.reduce<Loop | null>(
    (best, l) => (sign * doubleArea(l) > 0 && (!best || Math.abs(doubleArea(l)) > Math.abs(doubleArea(best))) ? l : best),
    null,
  );
}

/**
 * A polygon without the sides that would be used up when all of it moves inward: small bevels of an opening's corners, which a
 * part that fits into it doesn't have. Their neighbours run on to where they meet.
 *
 * @param far how far inward it is to go, mm
 */
export function withoutShort(loop: Loop, far: number): Loop {
  let out = loop;
  while (out.length > 3) {
    const n = out.length;
    const turns = out.map((p, i) => {
      const [a, b] = [out[(i + n - 1) % n], out[(i + 1) % n]];
      return Math.atan2(
        (p[0] - a[0]) * (b[1] - p[1]) - (p[1] - a[1]) * (b[0] - p[0]),
        (p[0] - a[0]) * (b[0] - p[0]) + (p[1] - a[1]) * (b[1] - p[1]),
      );
    });
    // A side loses tan(turn / 2) of its length at each end for every mm.
    const left = out.map((p, i) => {
      const q = out[(i + 1) % n];
      return Math.hypot(q[0] - p[0], q[1] - p[1]) - far * (Math.tan(turns[i] / 2) + Math.tan(turns[(i + 1) % n] / 2));
    });
    const worst = left.indexOf(Math.min(...left));
    if (left[worst] > 0) return out;
    const [a, p, q, b] = [-1, 0, 1, 2].map((k) => out[(worst + k + n) % n]);
    const [d, e] = [
      [p[0] - a[0], p[1] - a[1]],
      [b[0] - q[0], b[1] - q[1]],
    ];
    const det = d[0] * e[1] - d[1] * e[0];
    if (Math.abs(det) < 1e-9 * Math.hypot(...d) * Math.hypot(...e)) return out;
    const t = ((q[0] - a[0]) * e[1] - (q[1] - a[1]) * e[0]) / det;
    const meet: [number, number] = [a[0] + t * d[0], a[1] + t * d[1]];
    out = out.flatMap((x, i): Loop => (i === worst ? [meet] : i === (worst + 1) % n ? [] : [x]));
  }
  return out;
}
