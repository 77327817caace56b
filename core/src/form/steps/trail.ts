import { FormError } from '../../errors';
import type { Mat4 } from '../../maths/mat4';
import { cross, distance, normalise, perpendicular, scale, sub, type Vec3, vec3 } from '../../maths/vec3';
import { figure } from '../../units/lengths';
import { place, toggle, whole } from '../fields';
import { type Hand, handFields } from '../hand';
import { minimisingFrames } from '../path';
import type { StepBase, StepKind } from '../step';

/** Copies of everything above it at equal distances along a path. */
export interface TrailStep extends StepBase, Hand {
  kind: 'trail';
  path: { id: string; x: number; y: number; z: number }[];
  /** Back to the first point at the end. */
  closed: boolean;
  /** A smooth curve through the points, not straight lines. */
  smooth: boolean;
  count: number;
  /** Copies turn with the path: their y stands across it, their z along it. */
  turned: boolean;
  applied: boolean;
}

/** Lengths along a curve are summed over so many chords from point to point. */
const CHORDS = 64;

/** Centripetal Catmull–Rom spline through the points (Yuksel et al. 2011), or the polyline, as a dense line. */
function trailLine(points: readonly Vec3[], closed: boolean, smooth: boolean): Vec3[] {
  const n = points.length;
  const legs = closed ? n : n - 1;
  if (!smooth) return [...points, ...(closed ? [points[0]] : [])];
  const at = (i: number): Vec3 => {
    if (closed) return points[(i + n) % n];
    if (i < 0) return sub(scale(points[0], 2), points[1]);
    return i >= n ? sub(scale(points[n - 1], 2), points[n - 2]) : points[i];
  };
  const out: Vec3[] = [points[0]];
  for (let i = 0; i < legs; i++) {
    const p = [at(i - 1), at(i), at(i + 1), at(i + 2)];
    const t = [0];
    for (let k = 1; k < 4; k++) t.push(t[k - 1] + Math.max(Math.sqrt(distance(p[k], p[k - 1])), 1e-6));
    const mix = (a: Vec3, b: Vec3, ta: number, tb: number, x: number): Vec3 => vec3((k) => ((tb - x) * a[k] + (x - ta) * b[k]) / (tb - ta));
    for (let s = 1; s <= CHORDS; s++) {
      const x = t[1] + ((t[2] - t[1]) * s) / CHORDS;
      const [a, b, c] = [0, 1, 2].map((k) => mix(p[k], p[k + 1], t[k], t[k + 1], x));
      const [d, e] = [mix(a, b, t[0], t[2], x), mix(b, c, t[1], t[3], x)];
      out.push(mix(d, e, t[1], t[2], x));
    }
  }
  return out;
}

/** Places at equal distances along a line, and the way it runs there. */
function spaced(line: readonly Vec3[], count: number, closed: boolean): { point: Vec3; tangent: Vec3 }[] {
  const lengths = [0];
  for (let i = 1; i < line.length; i++) lengths.push(lengths[i - 1] + distance(line[i], line[i - 1]));
  const total = lengths[lengths.length - 1];
  return Array.from({ length: count }, (_, c) => {
    const wanted = (total * c) / Math.max(closed ? count : count - 1, 1);
    let i = 1;
    while (i < line.length - 1 && lengths[i] < wanted) i++;
    const t = (wanted - lengths[i - 1]) / Math.max(lengths[i] - lengths[i - 1], 1e-12);
    const [a, b] = [line[i - 1], line[i]];
    return { point: vec3((k) => a[k] + t * (b[k] - a[k])), tangent: normalise(sub(b, a)) };
  });
}

export const trail = {
  kind: 'trail',
  name: 'copies along a path',
  about: 'Copies of everything above it at equal distances along a line of points: beads, stitches, chain, rivets round a seam.',
  fields: [
    {
      type: 'list',
      key: 'path',
      label: 'Path',
      one: 'Point',
      least: 2,
      most: 200,
      fields: [place('x', 'x'), place('y', 'y'), place('z', 'z')],
      fresh: (list) => {
        const last = list[list.length - 1] as unknown as { x: number; y: number; z: number };
        return { x: last.x + 20, y: last.y, z: last.z };
      },
    },
    toggle('closed', 'Back to its start'),
    toggle('smooth', 'A curve'),
    whole('count', 'Copies', 1, 500),
    toggle('turned', 'Turned with the path'),
    toggle('applied', 'Made into one mesh'),
    ...handFields(true),
  ],
  fresh: () => ({
    name: 'Along a path',
    path: [
      { id: 'a', x: -40, y: 0, z: 0 },
      { id: 'b', x: 40, y: 0, z: 0 },
    ],
    closed: false,
    smooth: true,
    count: 5,
    turned: true,
    applied: false,
  }),
  words: (s: TrailStep) => `${figure(s.count, 0)} along ${s.path.length} points`,
  copies(step: TrailStep): Mat4[] {
    const points = step.path.map((p): Vec3 => [p.x, p.y, p.z]);
    for (let i = 1; i < points.length; i++)
      if (distance(points[i], points[i - 1]) < 1e-6)
        throw new FormError('trail/double', `Points ${i} and ${i + 1} of “${step.name}” are in the same place.`);
    const places = spaced(trailLine(points, step.closed, step.smooth), step.count, step.closed);
    if (!step.turned) return places.map(({ point }) => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, ...point, 1]);
    const first = places[0].tangent;
    const up: Vec3 =
      Math.abs(first[1]) < 0.95 ? normalise([-first[0] * first[1], 1 - first[1] ** 2, -first[2] * first[1]]) : perpendicular(first);
    const ups = minimisingFrames(
      places.map((p) => p.point),
      places.map((p) => p.tangent),
      up,
    );
    return places.map(({ point, tangent }, i) => [...cross(ups[i], tangent), 0, ...ups[i], 0, ...tangent, 0, ...point, 1]);
  },
} satisfies StepKind<TrailStep>;
