import { FormError } from '../errors';
import { doubleArea } from '../mesh/planar';
import { figure } from '../units/lengths';

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
        `${what} leaves a side of ${figure(Math.hypot(sides[i].d[0], sides[i].d[1]))} mm no length: make it smaller.`,
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
