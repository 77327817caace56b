import { FormError } from '../../errors';
import { add, cross, distance, dot, length, normalise, perpendicular, scale, sub, type Vec3 } from '../../maths/vec3';
import type { PolyMesh } from '../../mesh/polymesh';
import { unrollChain } from '../../mesh/unroll';
import { figure, millimetres } from '../../units/lengths';
import { inscribedCount, inscribedError } from '../budget/chord';
import { angle, choice, length as lengthField } from '../fields';
import { type LoftFace, loft } from '../loft';
import { type Bend, minimisingFrames, onBend, type Path, type Piece, POINT_FIELDS, piecesOf, ROUTE_FIELDS } from '../path';
import { SECTION_FIELDS, type Section, type SectionPlan, type SectionPoint, sectionPlan } from '../section';
import { type Adaptive, countOf, type Detail, type Maker, type StepBase, type StepKind } from '../step';

/** A bar along a path with rounded corners. Lengths in mm. */
export interface BarStep extends StepBase, Section, Path {
  kind: 'bar';
  name: string;
  /** Turns the section round the path, degrees. */
  rollDegrees?: number;
  /** How it ends, in both meshes; flat when absent. */
  ends?: 'flat' | 'bevelled' | 'round';
  /** Width of bevelled ends. */
  endSize?: number;
  /** Radius of flat ends' edges in the high mesh. */
  edgeRadius: number;
}

/** A bend whose inner and outer sides differ by more than this is laid out row by row instead of in the strip. */
const STRIP_BEND = 0.12;

/** The outside of a bend decides: radius R + r. */
const bendOf = (step: BarStep, b: Bend, reach: number): Adaptive => ({
  key: `${step.id}.bend.${b.id}`,
  label: `steps round the ${figure((b.angle * 180) / Math.PI, 0)}° bend`,
  minimum: Math.max(1, Math.ceil(b.angle / 1.6)),
  errorMm: (n) => inscribedError(b.radius + reach, n, b.angle),
  countFor: (e) => inscribedCount(b.radius + reach, e, b.angle, Math.max(1, Math.ceil(b.angle / 1.6))),
});

/** Steps along a rounded end: a quarter turn of the section's reach. */
const endOf = (step: BarStep, reach: number): Adaptive => ({
  key: `${step.id}.ends`,
  label: 'steps round its ends',
  minimum: 2,
  errorMm: (n) => inscribedError(reach, n, Math.PI / 2),
  countFor: (e) => inscribedCount(reach, e, Math.PI / 2, 2),
});

interface Station {
  point: Vec3;
  tangent: Vec3;
  patch: string;
  /** Share along the piece. */
  v: number;
  /** The row that ends here is part of a tight bend. */
  tight: boolean;
  /** Share of the section: 0 is a point. */
  size: number;
  /** Edge across the bar is hard here. */
  hard: boolean;
}

const maker: Maker<BarStep> = {
  plan(step) {
    const section = sectionPlan(step, step.id, step.name);
    const pieces = piecesOf(step, section.reach);
    const bends = pieces.flatMap((p) => ('bend' in p ? [bendOf(step, p.bend, section.reach)] : []));
    const straights = pieces.length - bends.length;
    const round = step.ends === 'round' ? endOf(step, section.reach) : undefined;
    endRoom(step, pieces, section);
    return {
      adaptive: [...section.adaptive, ...bends, ...(round ? [round] : [])],
      triangles: (count) => {
        const n = section.corners(count);
        const rows = bends.reduce((sum, b) => sum + count(b), straights);
        if (round) return 2 * n * rows + 2 * n * (2 * count(round) - 1);
        return 2 * n * (rows + (step.ends === 'bevelled' ? 2 : 0)) + 2 * (n - 2);
      },
    };
  },
  build(step, detail) {
    const section = sectionPlan(step, step.id, step.name);
    return sweep(step, stationsOf(step, section, detail), section.points(detail));
  },
  topology: () => ({ shells: 1, genus: 0, rims: 0 }),
};

/** What ends need of the straights they stand on. @throws FormError `bar/end` with the most that fits */
function endRoom(step: BarStep, pieces: readonly Piece[], section: SectionPlan): void {
  const wanted = step.ends === 'round' ? section.reach : step.ends === 'bevelled' ? (step.endSize ?? 0.5) : 0;
  if (wanted === 0) return;
  const lengths = [pieces[0], pieces[pieces.length - 1]].map((p) => ('straight' in p ? distance(...p.straight) : 0));
  const room = pieces.length === 1 ? lengths[0] / 2 : Math.min(...lengths);
  const most = step.ends === 'bevelled' ? Math.min(room, section.reach) : room;
  if (wanted >= most)
    throw new FormError(
      'bar/end',
      `The ${step.ends === 'round' ? 'round ends' : 'bevels'} of “${step.name}” take ${millimetres(wanted)}; there are ${millimetres(most)} for them.`,
      { needMm: wanted, roomMm: most },
    );
}

function stationsOf(step: BarStep, section: SectionPlan, detail: Detail): Station[] {
  const pieces = piecesOf(step, section.reach);
  endRoom(step, pieces, section);
  const stations: Station[] = [];
  const put = (s: Omit<Station, 'size' | 'hard'>) => stations.push({ ...s, size: 1, hard: false });
  for (const [i, p] of pieces.entries()) {
    if ('straight' in p) {
      const [a, b] = p.straight;
      const tangent = normalise(sub(b, a));
      const patch = `side ${p.id}`;
      if (i === 0) put({ point: a, tangent, patch, v: 0, tight: false });
      put({ point: b, tangent, patch, v: 1, tight: false });
    } else {
      const k = countOf(detail, bendOf(step, p.bend, section.reach));
      if (i === 0) put({ ...onBend(p.bend, 0), patch: `bend ${p.bend.id}`, v: 0, tight: false });
      for (let j = 1; j <= k; j++)
        put({ ...onBend(p.bend, j / k), patch: `bend ${p.bend.id}`, v: j / k, tight: section.reach / p.bend.radius > STRIP_BEND });
    }
  }
  if (step.ends === 'round') return roundEnds(stations, section.reach, countOf(detail, endOf(step, section.reach)));
  if (step.ends === 'bevelled') return bevelledEnds(stations, step.endSize ?? 0.5, section.reach);
  if (detail.mesh === 'high' && step.edgeRadius > 0) return roundedEnds(stations, step.edgeRadius, section.reach, detail.toleranceMm);
  stations[0].hard = stations[stations.length - 1].hard = true;
  return stations;
}

/** Both ends changed alike: `rows` are depth behind the end (mm) and size, from the inside out. */
function endedWith(stations: Station[], rows: readonly { depth: number; size: number; hard?: boolean }[], patch: string): Station[] {
  const end = (s: Station, inward: number, name: string): Station[] =>
    rows.map(({ depth, size, hard }, i) => ({
      ...s,
      point: add(s.point, scale(s.tangent, inward * depth)),
      size,
      v: i / (rows.length - 1),
      patch: i === 0 ? s.patch : name,
      tight: false,
      hard: hard ?? false,
    }));
  const last = stations[stations.length - 1];
  const first = end(stations[0], 1, `start ${patch}`).reverse();
  // Rows of the start run the other way: what leads to a station belongs to the one before it.
  const start = first.map((s, i) => ({ ...s, patch: i === 0 ? s.patch : first[i - 1].patch, v: i / (first.length - 1) }));
  const tail = end(last, -1, `end ${patch}`);
  tail[0].v = 1;
  return [...start, ...stations.slice(1, -1), ...tail];
}

/** Quarter arcs of the section's own reach, closed at a point. */
function roundEnds(stations: Station[], reach: number, k: number): Station[] {
  const rows = Array.from({ length: k + 1 }, (_, i) => {
    const a = ((i / k) * Math.PI) / 2;
    return { depth: reach * (1 - Math.sin(a)), size: i === k ? 0 : Math.cos(a) };
  });
  return endedWith(stations, rows, 'end');
}

function bevelledEnds(stations: Station[], size: number, reach: number): Station[] {
  return endedWith(
    stations,
    [
      { depth: size, size: 1, hard: true },
      { depth: 0, size: 1 - size / reach, hard: true },
    ],
    'bevel',
  );
}

/** Flat ends with an edge radius: sections shrink along a quarter arc of it. */
function roundedEnds(stations: Station[], edge: number, reach: number, tolerance: number): Station[] {
  const n = stations.length;
  const room = Math.min(distance(stations[0].point, stations[1].point), distance(stations[n - 1].point, stations[n - 2].point));
  const e = Math.min(edge, reach * 0.9, room * 0.45);
  const k = inscribedCount(e, tolerance, Math.PI / 2, 3);
  const rows = Array.from({ length: k + 1 }, (_, i) => {
    const a = ((i / k) * Math.PI) / 2;
    return { depth: e * (1 - Math.sin(a)), size: 1 - (e / reach) * (1 - Math.cos(a)) };
  });
  return endedWith(stations, rows, 'edge');
}

function sweep(step: BarStep, stations: readonly Station[], section: readonly SectionPoint[]): PolyMesh {
  const points = stations.map((s) => s.point);
  const n = section.length;
  const roll = ((step.rollDegrees ?? 0) * Math.PI) / 180;
  const start = turnedAbout(innerSide(stations), stations[0].tangent, roll);
  // At a rounded end sections share one tangent; the frames only need distinct points, which they have.
  const frames = minimisingFrames(
    points,
    stations.map((s) => s.tangent),
    start,
  );
  const loops = stations.map((s, j): Vec3[] => {
    const side = normalise(cross(s.tangent, frames[j]));
    const at = (q: SectionPoint): Vec3 => add(s.point, add(scale(frames[j], q.x * s.size), scale(side, q.y * s.size)));
    return s.size === 0 ? [s.point] : section.map(at);
  });
  const around = [0];
  for (let i = 0; i < n; i++) {
    const [p, q] = [section[i], section[(i + 1) % n]];
    around.push(around[i] + Math.hypot(q.x - p.x, q.y - p.y));
  }
  const rows = rowsOf(stations, loops);
  return loft({
    loops,
    start: loops[0].length > 1 ? 'start' : undefined,
    end: loops[loops.length - 1].length > 1 ? 'end' : undefined,
    face(j, i): LoftFace {
      const next = stations[j + 1];
      const v0 = stations[j].patch === next.patch && stations[j].v < next.v ? stations[j].v : 0;
      const { chart, run, step: long, laid } = rows[j];
      return {
        patch: next.patch,
        u: [section[i].u, i + 1 < n ? section[i + 1].u : 1],
        v: [v0, next.v],
        hard: [stations[j].hard, section[(i + 1) % n].hard, next.hard, section[i].hard],
        ...(chart >= 0 && {
          chart,
          flat: laid
            ? [laid.lower[i], laid.lower[i + 1], laid.upper[i + 1], laid.upper[i]]
            : [
                [around[i], run],
                [around[i + 1], run],
                [around[i + 1], run + long],
                [around[i], run + long],
              ],
        }),
      };
    },
  });
}

interface Row {
  /** −1 where the layout is left to the flattening: rows whose section shrinks. */
  chart: number;
  run: number;
  step: number;
  laid?: ReturnType<typeof unrollChain>;
}

/** Straights and wide bends lie in one strip, tight bends row by row. */
function rowsOf(stations: readonly Station[], loops: readonly Vec3[][]): Row[] {
  const rows: Row[] = [];
  let chart = -1;
  let run = 0;
  for (let j = 0; j + 1 < stations.length; j++) {
    const [a, b] = [stations[j], stations[j + 1]];
    const shrinks = a.size !== 1 || b.size !== 1;
    const before = rows[j - 1];
    const step = distance(a.point, b.point);
    if (shrinks) {
      rows.push({ chart: -1, run: 0, step });
      continue;
    }
    const alone = b.tight;
    if (!before || before.chart < 0 || alone || a.tight) {
      chart++;
      run = 0;
    }
    const around = (s: Vec3[]) => [...s, s[0]];
    rows.push({ chart, run, step, ...(alone && { laid: unrollChain(around(loops[j]), around(loops[j + 1])) }) });
    run += step;
  }
  return rows;
}

/** A vector turned about a unit axis it stands square to (Rodrigues 1840). */
function turnedAbout(v: Vec3, axis: Vec3, by: number): Vec3 {
  return by === 0 ? v : add(scale(v, Math.cos(by)), scale(cross(axis, v), Math.sin(by)));
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

export const bar = {
  kind: 'bar',
  name: 'bar along a path',
  about: 'A round, oval, rectangular or sketched section along a path with rounded corners: wires, pipes, handles, rails.',
  fields: [
    ...SECTION_FIELDS,
    ...ROUTE_FIELDS,
    angle('rollDegrees', 'Section turned', { optional: true, when: (s) => (s.section ?? 'round') !== 'round' }),
    choice(
      'ends',
      'Ends',
      [
        ['flat', 'flat'],
        ['bevelled', 'bevelled'],
        ['round', 'round'],
      ],
      { optional: true },
    ),
    lengthField('endSize', 'Bevel', { optional: true, when: (s) => s.ends === 'bevelled' }),
    lengthField('edgeRadius', 'Edge radius', { hint: 'high mesh', when: (s) => (s.ends ?? 'flat') === 'flat' }),
    POINT_FIELDS,
  ],
  fresh: () => ({
    name: 'Bar',
    radius: 2,
    edgeRadius: 0.5,
    path: [
      { id: 'a', x: 30, y: 0, z: 0 },
      { id: 'b', x: 30, y: 50, z: 0, bend: 10 },
      { id: 'c', x: 0, y: 50, z: 0 },
    ],
  }),
  words: (s: BarStep, length) =>
    (s.section ?? 'round') === 'round'
      ? `bar Ø ${length(2 * s.radius, 1)}`
      : s.section === 'sketch'
        ? 'bar of a sketched section'
        : `${s.section === 'oval' ? 'oval' : 'flat'} bar ${length(s.width ?? 0, 1)} × ${length(s.height ?? 0, 1)}`,
  maker,
  balanced: ({ section = 'round' }) => section === 'round' || section === 'oval',
} satisfies StepKind<BarStep>;
