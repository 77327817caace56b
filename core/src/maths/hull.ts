type Point = [number, number];

const turn = (o: Point, a: Point, b: Point): number => (a[0] - o[0]) * (b[1] - o[1]) - (a[1] - o[1]) * (b[0] - o[0]);

function half(list: readonly Point[]): Point[] {
  const out: Point[] = [];
  for (const q of list) {
    while (out.length >= 2 && turn(out[out.length - 2], out[out.length - 1], q) <= 0) out.pop();
    out.push(q);
  }
  return out.slice(0, -1);
}

/**
 * The corners of the smallest convex outline round points of a plane, counter-clockwise, none on a side between two others: Andrew's
 * monotone chain (1979). Points in one place give that place; none give the origin.
 */
export function convexHull(points: readonly Point[]): Point[] {
  const all = [...points].sort((a, b) => a[0] - b[0] || a[1] - b[1]);
  const sorted = all.filter((p, i) => i === 0 || p[0] !== all[i - 1][0] || p[1] !== all[i - 1][1]);
  const hull = [...half(sorted), ...half(sorted.toReversed())];
  return hull.length > 0 ? hull : [sorted[0] ?? [0, 0]];
}
