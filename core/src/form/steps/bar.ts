import { FormError } from '../../errors';
import { add, cross, distance, dot, length, normalise, perpendicular, scale, sub, type Vec3 } from '../../maths/vec3';
import { MeshBuilder, type PolyMesh } from '../../mesh/polymesh';
import { unrollChain } from '../../mesh/unroll';
import { figure } from '../../units/lengths';
import { balancedCount, balancedError, balancedScale, inscribedCount, inscribedError } from '../budget/chord';
import { type Adaptive, countOf, type Detail, type Maker } from '../step';
import { laidOut } from './turned';

export interface PathPoint {
  id: string;
  x: number;
  y: number;
  z: number;
  /** Radius of the bend at this corner, along the middle of the bar, mm. Ends have none. */
  bend?: number;
}

/** A round bar along a path with rounded corners. Lengths in mm. */
export interface BarStep {
  kind: 'bar';
  id: string;
  name: string;
  enabled: boolean;
  path: PathPoint[];
  /** Radius of the section. */
  radius: number;
  /** Radius of the end's edge in the high mesh. */
  edgeRadius: number;
}

/** A bend whose inner and outer sides differ by more than this is laid out row by row instead of in the strip. */
const STRIP_BEND = 0.12;

interface Bend {
  centre: Vec3;
  /** Unit, from the centre to where the bend starts. */
  from: Vec3;
  /** Unit direction of travel where it starts. */
  along: Vec3;
  radius: number;
  angle: number;
  id: string;
}
type Piece = { straight: [Vec3, Vec3] } | { bend: Bend };

/** Straights and bends of the path. Tangent length of a bend: t = R·tan(θ/2), θ the turning angle. */
function piecesOf(step: BarStep): Piece[] {
  const { path, radius } = step;
  if (path.length < 2) throw new FormError('bar/path', `The path of “${step.name}” needs at least two points.`);
  if (!(radius > 0)) throw new FormError('bar/radius', `“${step.name}” needs a section radius above 0 mm.`);
  const p = path.map((q): Vec3 => [q.x, q.y, q.z]);
  for (let i = 0; i + 1 < p.length; i++)
    if (distance(p[i], p[i + 1]) < 1e-6)
      throw new FormError('bar/double', `Points ${i + 1} and ${i + 2} of “${step.name}” are in the same place.`);
  const taken = new Array<number>(p.length).fill(0);
  const bends: (Bend | undefined)[] = p.map((q, i) => {
    if (i === 0 || i === p.length - 1) return undefined;
    const d = normalise(sub(q, p[i - 1]));
    const e = normalise(sub(p[i + 1], q));
    const angle = Math.atan2(length(cross(d, e)), dot(d, e));
    if (angle < 1e-4) return undefined;
    if (angle > Math.PI - 0.02)
      throw new FormError('bar/fold', `“${step.name}” turns straight back at point ${i + 1}; move the point so that a bend fits.`);
    const r = path[i].bend ?? 0;
    if (r <= radius)
      throw new FormError(
        'bar/bend',
        `The bend at point ${i + 1} of “${step.name}” is ${figure(r)} mm; a round bar of ${figure(radius)} mm radius needs more than that.`,
        { bendMm: r, radiusMm: radius },
      );
    const t = r * Math.tan(angle / 2);
    taken[i] = t;
    const toCentre = normalise(sub(e, scale(d, dot(d, e))));
    const start = sub(q, scale(d, t));
    return { centre: add(start, scale(toCentre, r)), from: scale(toCentre, -1), along: d, radius: r, angle, id: path[i].id };
  });
  const pieces: Piece[] = [];
  let at = p[0];
  for (let i = 1; i < p.length; i++) {
    const room = distance(p[i - 1], p[i]);
    if (taken[i - 1] + taken[i] > room + 1e-9)
      throw new FormError(
        'bar/overlap',
        `The bends at points ${i} and ${i + 1} of “${step.name}” overlap: they need ${figure(taken[i - 1] + taken[i])} mm of the ${figure(room)} mm between them.`,
        { needMm: taken[i - 1] + taken[i], roomMm: room },
      );
    const bend = bends[i];
    const end = bend ? add(bend.centre, scale(bend.from, bend.radius)) : p[i];
    if (distance(at, end) > 1e-7) pieces.push({ straight: [at, end] });
    at = end;
    if (bend) {
      pieces.push({ bend });
      at = onBend(bend, 1).point;
    }
  }
  return pieces;
}

function onBend(b: Bend, share: number): { point: Vec3; tangent: Vec3 } {
  const a = b.angle * share;
  const out = add(scale(b.from, Math.cos(a)), scale(b.along, Math.sin(a)));
  return { point: add(b.centre, scale(out, b.radius)), tangent: add(scale(b.along, Math.cos(a)), scale(b.from, -Math.sin(a))) };
}

const sectionOf = (step: BarStep): Adaptive => ({
  key: `${step.id}.section`,
  label: `sides of the Ø ${figure(2 * step.radius, 1)} section`,
  minimum: 4,
  errorMm: (n) => balancedError(step.radius, n),
  countFor: (e) => balancedCount(step.radius, e, 4),
});

/** The outside of a bend decides: radius R + r. */
const bendOf = (step: BarStep, b: Bend): Adaptive => ({
  key: `${step.id}.bend.${b.id}`,
  label: `steps round the ${figure((b.angle * 180) / Math.PI, 0)}° bend`,
  minimum: Math.max(1, Math.ceil(b.angle / 1.6)),
  errorMm: (n) => inscribedError(b.radius + step.radius, n, b.angle),
  countFor: (e) => inscribedCount(b.radius + step.radius, e, b.angle, Math.max(1, Math.ceil(b.angle / 1.6))),
});

interface Station {
  point: Vec3;
  tangent: Vec3;
  patch: string;
  /** Share along the piece. */
  v: number;
  /** The row that ends here is part of a tight bend. */
  tight: boolean;
  /** Section radius as a share of the bar's. */
  size: number;
}

export const bar: Maker<BarStep> = {
  plan(step) {
    const section = sectionOf(step);
    const pieces = piecesOf(step);
    const bends = pieces.flatMap((p) => ('bend' in p ? [bendOf(step, p.bend)] : []));
    const straights = pieces.length - bends.length;
    return {
      adaptive: [section, ...bends],
      triangles: (count) => {
        const n = count(section);
        return 2 * n * bends.reduce((rows, b) => rows + count(b), straights) + 2 * (n - 2);
      },
    };
  },
  build(step, detail) {
    const stations = stationsOf(step, detail);
    const n = countOf(detail, sectionOf(step));
    return sweep(step, stations, n, detail.mesh === 'low' ? balancedScale(n) : 1);
  },
};

function stationsOf(step: BarStep, detail: Detail): Station[] {
  const pieces = piecesOf(step);
  const stations: Station[] = [];
  const put = (s: Omit<Station, 'size'>) => stations.push({ ...s, size: 1 });
  for (const [i, p] of pieces.entries()) {
    if ('straight' in p) {
      const [a, b] = p.straight;
      const tangent = normalise(sub(b, a));
      if (i === 0) put({ point: a, tangent, patch: 'side', v: 0, tight: false });
      put({ point: b, tangent, patch: 'side', v: 1, tight: false });
    } else {
      const k = countOf(detail, bendOf(step, p.bend));
      if (i === 0) put({ ...onBend(p.bend, 0), patch: 'bend', v: 0, tight: false });
      for (let j = 1; j <= k; j++)
        put({ ...onBend(p.bend, j / k), patch: 'bend', v: j / k, tight: step.radius / p.bend.radius > STRIP_BEND });
    }
  }
  if (detail.mesh === 'high' && step.edgeRadius > 0) return roundedEnds(stations, step, detail.toleranceMm);
  return stations;
}

/** Rounds both ends: sections shrink along a quarter arc of the edge radius. */
function roundedEnds(stations: Station[], step: BarStep, tolerance: number): Station[] {
  const first = stations[0];
  const last = stations[stations.length - 1];
  const room = Math.min(distance(first.point, stations[1].point), distance(last.point, stations[stations.length - 2].point));
  const e = Math.min(step.edgeRadius, step.radius * 0.9, room * 0.45);
  const k = inscribedCount(e, tolerance, Math.PI / 2, 3);
  const quarter = (s: Station, inward: number): Station[] =>
    Array.from({ length: k + 1 }, (_, i) => {
      const a = (i / k) * (Math.PI / 2);
      return {
        ...s,
        point: add(s.point, scale(s.tangent, inward * e * (1 - Math.sin(a)))),
        size: 1 - (e / step.radius) * (1 - Math.cos(a)),
        v: 0,
      };
    });
  return [...quarter(first, 1).reverse(), ...stations.slice(1, -1), ...quarter(last, -1)];
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

function sweep(step: BarStep, stations: readonly Station[], n: number, k: number): PolyMesh {
  const builder = new MeshBuilder();
  const points = stations.map((s) => s.point);
  const start = innerSide(stations);
  // At a rounded end sections share one tangent; the frames only need distinct points, which they have.
  const frames = minimisingFrames(
    points,
    stations.map((s) => s.tangent),
    start,
  );
  const section = stations.map((s, j) => {
    const side = normalise(cross(s.tangent, frames[j]));
    return Array.from({ length: n }, (_, i): Vec3 => {
      const a = (2 * Math.PI * i) / n;
      return add(s.point, scale(add(scale(frames[j], Math.cos(a)), scale(side, Math.sin(a))), step.radius * k * s.size));
    });
  });
  const base = section.map((ring) => ring.map((p) => builder.vertex(p[0], p[1], p[2]))[0]);
  const chart: number[] = [];
  const flat: number[] = [];
  const chord = 2 * step.radius * k * Math.sin(Math.PI / n);
  let island = 0;
  let run = 0;
  for (let j = 0; j + 1 < stations.length; j++) {
    const next = stations[j + 1];
    const patch = builder.patch(next.patch);
    const alone = next.tight;
    if (j > 0 && (alone || stations[j].tight)) {
      island++;
      run = 0;
    }
    const around = (s: Vec3[]) => [...s, s[0]];
    const laid = alone ? unrollChain(around(section[j]), around(section[j + 1])) : undefined;
    const step1 = distance(points[j], points[j + 1]);
    const v0 = stations[j].v < next.v ? stations[j].v : 0;
    for (let i = 0; i < n; i++) {
      const i1 = (i + 1) % n;
      builder.face(
        [base[j] + i, base[j] + i1, base[j + 1] + i1, base[j + 1] + i],
        patch,
        [i / n, v0, (i + 1) / n, v0, (i + 1) / n, next.v, i / n, next.v],
        [j === 0, false, j + 2 === stations.length, false],
      );
      chart.push(island);
      if (laid) flat.push(...laid.lower[i], ...laid.lower[i + 1], ...laid.upper[i + 1], ...laid.upper[i]);
      else flat.push(i * chord, run, (i + 1) * chord, run, (i + 1) * chord, run + step1, i * chord, run + step1);
    }
    run += step1;
  }
  for (const end of [0, stations.length - 1]) {
    const order = Array.from({ length: n }, (_, i) => (end === 0 ? n - 1 - i : i));
    const angles = order.map((i) => (2 * Math.PI * i) / n);
    const r = step.radius * k * stations[end].size;
    builder.face(
      order.map((i) => base[end] + i),
      builder.patch(end === 0 ? 'start' : 'end'),
      angles.flatMap((a) => [0.5 + 0.5 * Math.cos(a), 0.5 + 0.5 * Math.sin(a)]),
      order.map(() => true),
    );
    chart.push(++island);
    // Seen from outside the start runs the other way round, so its layout is mirrored with it.
    for (const a of angles) flat.push((end === 0 ? -1 : 1) * r * Math.cos(a), r * Math.sin(a));
  }
  return laidOut(builder.build(), chart, flat);
}

/** Where the strip is slit: on the inner side of the path, where it shows least. */
function innerSide(stations: readonly Station[]): Vec3 {
  const middle = scale(
    stations.reduce<Vec3>((s, q) => add(s, q.point), [0, 0, 0]),
    1 / stations.length,
  );
  const { point, tangent } = stations[0];
  const inward = sub(middle, point);
  const flat = sub(inward, scale(tangent, dot(inward, tangent)));
  return length(flat) > 1e-6 ? normalise(flat) : perpendicular(tangent);
}
