import { FormError } from '../errors';
import { add, cross, distance, dot, length, normalise, scale, sub, type Vec3 } from '../maths/vec3';
import { millimetres } from '../units/lengths';
import { tangentAt, turnBetween } from './curves';
import { choice, type Field, length as lengthField, place } from './fields';
import { pathOf } from './sketch/chains';
import { SKETCH_FIELDS, type Sketch } from './sketch/sketch';

/** A point of a path in the part’s own space, mm. */
export interface PathPoint {
  id: string;
  x: number;
  y: number;
  z: number;
  /** Radius of the bend at this corner, along the middle, mm. Ends have none. */
  bend?: number;
}

/** A way through space that is tangent all along: straights and bends. */
export interface Path {
  /** What messages call it. */
  name: string;
  /** Points with bends, or a sketch seen from the front. Points when absent. */
  along?: 'points' | 'sketch';
  path: PathPoint[];
  /** An open line of lines and tangent arcs, in the plane z = 0. */
  route?: Sketch;
}

/** The fields of a path, for steps that follow one: the drawn half, and the list of points. */
export const ROUTE_FIELDS: readonly Field[] = [
  choice(
    'along',
    'Follows',
    [
      ['points', 'points with bends'],
      ['sketch', 'a sketch'],
    ],
    { optional: true },
  ),
  { type: 'group', key: 'route', label: 'Path', fields: SKETCH_FIELDS, drawn: true, optional: true },
];
export const POINT_FIELDS: Field = {
  type: 'list',
  key: 'path',
  label: 'Path',
  one: 'Point',
  when: (s) => s.along !== 'sketch',
  least: 2,
  most: 200,
  fields: [place('x', 'x'), place('y', 'y'), place('z', 'z'), lengthField('bend', 'Bend radius', { optional: true })],
  fresh: (list) => {
    const [a, b] = list.slice(-2) as { x: number; y: number; z: number }[];
    return { x: b.x + (b.x - a.x) * 0.5, y: b.y + (b.y - a.y) * 0.5 + 0.01, z: b.z + (b.z - a.z) * 0.5 };
  },
};

/** A round corner of a path, a part of a circle in space. */
export interface Bend {
  centre: Vec3;
  /** Unit, from the centre to where the bend starts. */
  from: Vec3;
  /** Unit direction of travel where it starts. */
  along: Vec3;
  radius: number;
  angle: number;
  id: string;
  name: string;
}
/** A part of a path: straight, or round. */
export type Piece = { straight: [Vec3, Vec3]; id: string; name: string } | { bend: Bend };

/**
 * Straights and bends of a path.
 *
 * @param reach how far a section reaches from its middle, mm; every bend needs more than that
 * @throws FormError `path/…` naming the corner, bend or point
 */
export const piecesOf = (step: Path, reach: number): Piece[] =>
  step.along === 'sketch' ? sketchedPieces(step, reach) : pointPieces(step, reach);

/** A sketched path: its arcs are the bends. Corners have to be arcs. */
function sketchedPieces(step: Path, reach: number): Piece[] {
  const { curves, ids, names } = pathOf(step.route ?? { points: [], curves: [], constraints: [] }, step.name);
  return curves.map((c, i): Piece => {
    const before = curves[i - 1];
    if (before && Math.abs(turnBetween(before, c)) > SMOOTH)
      throw new FormError(
        'path/corner',
        `The path of “${step.name}” has a sharp corner between “${names[i - 1]}” and “${names[i]}”; join them by a tangent arc.`,
      );
    const at = (p: readonly [number, number]): Vec3 => [p[0], p[1], 0];
    if (c.kind === 'line') return { straight: [at(c.a), at(c.b)], id: ids[i], name: names[i] };
    if (c.radius <= reach)
      throw new FormError(
        'path/bend',
        `“${names[i]}” of “${step.name}” bends at ${millimetres(c.radius)}; its section reaches ${millimetres(reach)} from its middle and needs more than that.`,
        { bendMm: c.radius, radiusMm: reach },
      );
    const from = normalise(sub(at(c.a), at(c.centre)));
    return {
      bend: {
        centre: at(c.centre),
        from,
        along: at(tangentAt(c, 0)),
        radius: c.radius,
        angle: Math.abs(c.sweep),
        id: ids[i],
        name: names[i],
      },
    };
  });
}
/** Half a degree: less is a line drawn on. */
const SMOOTH = 0.009;

/** Tangent length of a bend: t = R·tan(θ/2), θ the turning angle. */
function pointPieces(step: Path, radius: number): Piece[] {
  const { path } = step;
  if (path.length < 2) throw new FormError('path/path', `The path of “${step.name}” needs at least two points.`);
  if (!(radius >= 0)) throw new FormError('path/radius', `“${step.name}” needs a section larger than nothing.`);
  const p = path.map((q): Vec3 => [q.x, q.y, q.z]);
  for (let i = 0; i + 1 < p.length; i++)
    if (distance(p[i], p[i + 1]) < 1e-6)
      throw new FormError('path/double', `Points ${i + 1} and ${i + 2} of “${step.name}” are in the same place.`);
  const taken = new Array<number>(p.length).fill(0);
  const bends: (Bend | undefined)[] = p.map((q, i) => {
    if (i === 0 || i === p.length - 1) return undefined;
    const d = normalise(sub(q, p[i - 1]));
    const e = normalise(sub(p[i + 1], q));
    const angle = Math.atan2(length(cross(d, e)), dot(d, e));
    if (angle < 1e-4) return undefined;
    if (angle > Math.PI - 0.02)
      throw new FormError('path/fold', `“${step.name}” turns straight back at point ${i + 1}; move the point so that a bend fits.`);
    const r = path[i].bend ?? 0;
    if (r <= radius)
      throw new FormError(
        'path/bend',
        `The bend at point ${i + 1} of “${step.name}” is ${millimetres(r)}; its section reaches ${millimetres(radius)} from its middle and needs more than that.`,
        { bendMm: r, radiusMm: radius },
      );
    const t = r * Math.tan(angle / 2);
    taken[i] = t;
    const toCentre = normalise(sub(e, scale(d, dot(d, e))));
    const start = sub(q, scale(d, t));
    return {
      centre: add(start, scale(toCentre, r)),
      from: scale(toCentre, -1),
      along: d,
      radius: r,
      angle,
      id: path[i].id,
      name: `point ${i + 1}`,
    };
  });
  const pieces: Piece[] = [];
  let at = p[0];
  for (let i = 1; i < p.length; i++) {
    const room = distance(p[i - 1], p[i]);
    if (taken[i - 1] + taken[i] > room + 1e-9)
      throw new FormError(
        'path/overlap',
        `The bends at points ${i} and ${i + 1} of “${step.name}” overlap: they need ${millimetres(taken[i - 1] + taken[i])} of the ${millimetres(room)} between them.`,
        { needMm: taken[i - 1] + taken[i], roomMm: room },
      );
    const bend = bends[i];
    const end = bend ? add(bend.centre, scale(bend.from, bend.radius)) : p[i];
    if (distance(at, end) > 1e-7) pieces.push({ straight: [at, end], id: path[i - 1].id, name: `point ${i}` });
    at = end;
    if (bend) {
      pieces.push({ bend });
      at = onBend(bend, 1).point;
    }
  }
  return pieces;
}

/** A place on a bend and the unit direction of travel there. @param share 0 where it begins, 1 where it ends */
export function onBend(b: Bend, share: number): { point: Vec3; tangent: Vec3 } {
  const a = b.angle * share;
  const out = add(scale(b.from, Math.cos(a)), scale(b.along, Math.sin(a)));
  return { point: add(b.centre, scale(out, b.radius)), tangent: add(scale(b.along, Math.cos(a)), scale(b.from, -Math.sin(a))) };
}

/** Rotation-minimising frames along the stations, by double reflection (Wang et al. 2008). */
export function minimisingFrames(points: readonly Vec3[], tangents: readonly Vec3[], start: Vec3): Vec3[] {
  const frames: Vec3[] = [start];
  for (let i = 0; i + 1 < points.length; i++) {
    const v1 = sub(points[i + 1], points[i]);
    const c1 = dot(v1, v1);
    const reflect = (x: Vec3): Vec3 => sub(x, scale(v1, (2 / c1) * dot(v1, x)));
    const r = reflect(frames[i]);
    const t = reflect(tangents[i]);
    const v2 = sub(tangents[i + 1], t);
    const c2 = dot(v2, v2);
    frames.push(c2 < 1e-24 ? r : normalise(sub(r, scale(v2, (2 / c2) * dot(v2, r)))));
  }
  return frames;
}

/** A path by the distance travelled along it, mm, with a frame that turns about it as little as can be. */
export interface Track {
  long: number;
  at(s: number): Rider;
  /** Its pieces by name, each with where it ends, mm along; the last one at `long`. */
  pieces: readonly { name: string; end: number }[];
}
/** A place on a path: travel, across and up are unit, square to each other, across × up = travel. */
export interface Rider {
  point: Vec3;
  travel: Vec3;
  across: Vec3;
  up: Vec3;
}

/** Frames kept along a track; between two of them one double reflection is taken. */
const KEPT = 192;

/**
 * A path ready to be travelled: it runs straight on beyond both ends. Up starts as near to +y as it can be.
 *
 * @throws FormError as {@link piecesOf}
 */
export function trackOf(path: Path): Track {
  const pieces = piecesOf(path, 0);
  const ends: number[] = [];
  for (const p of pieces)
    ends.push((ends[ends.length - 1] ?? 0) + ('straight' in p ? distance(...p.straight) : p.bend.radius * p.bend.angle));
  const long = ends[ends.length - 1];
  const on = (s: number): { point: Vec3; tangent: Vec3 } => {
    const i = Math.max(0, s >= long ? pieces.length - 1 : ends.findIndex((e) => s < e));
    const p = pieces[i];
    const from = i === 0 ? 0 : ends[i - 1];
    if ('straight' in p) {
      const tangent = normalise(sub(p.straight[1], p.straight[0]));
      return { point: add(p.straight[0], scale(tangent, s - from)), tangent };
    }
    const whole = ends[i] - from;
    const held = onBend(p.bend, Math.min(1, Math.max(0, (s - from) / whole)));
    const beyond = s < from ? s - from : s > ends[i] ? s - ends[i] : 0;
    return beyond === 0 ? held : { point: add(held.point, scale(held.tangent, beyond)), tangent: held.tangent };
  };
  const kept = Array.from({ length: KEPT + 1 }, (_, i) => on((i / KEPT) * long));
  const first = kept[0].tangent;
  const upright: Vec3 = Math.abs(first[1]) < 0.9 ? [0, 1, 0] : [-Math.sign(first[1]), 0, 0];
  const ups = minimisingFrames(
    kept.map((k) => k.point),
    kept.map((k) => k.tangent),
    normalise(sub(upright, scale(first, dot(first, upright)))),
  );
  return {
    long,
    pieces: pieces.map((p, i) => ({ name: 'bend' in p ? p.bend.name : p.name, end: ends[i] })),
    at(s) {
      const { point, tangent } = on(s);
      const i = Math.min(KEPT, Math.max(0, Math.round((s / long) * KEPT)));
      const up =
        distance(point, kept[i].point) < 1e-9 ? ups[i] : minimisingFrames([kept[i].point, point], [kept[i].tangent, tangent], ups[i])[1];
      return { point, travel: tangent, across: cross(up, tangent), up };
    },
  };
}
