import { type Vec3, vec3 } from '../../maths/vec3';
import type { Rework } from '../rework';
import { type Fan, turnedWay } from './fans';
import type { Slid } from './room';

/** Spokes nearer than this to the line of a bevelled edge can't be slid along, as a sine. */
const STEEP = 0.17;

/** Faces between two bevelled edges of a fan, and the new vertices along them, counter-clockwise. */
export interface Group {
  /** Spoke it starts and ends at. */
  from: number;
  to: number;
  points: Slid[];
}

/** The groups of faces between bevelled edges, their new vertices, and what becomes of each face's corner. */
export function groupsOf(
  fan: Fan,
  on: readonly number[],
  width: (spoke: number) => number,
  rework: Rework,
  outline: Map<number, Slid[]>,
): Group[] {
  const m = fan.corners.length;
  const spokes = fan.spokes.length;
  const out: Group[] = [];
  const stay: Slid = { vertex: fan.vertex, rate: [0, 0, 0] };
  const put = (rate: Vec3): Slid => ({ vertex: rework.vertex(...rework.position(fan.vertex)), rate });
  const one = (from: number, faces: number, a: number | null, b: number | null): void => {
    // Faces from, from + 1 … of the fan; inner spokes between them; angles counted from its first spoke.
    const face = (i: number) => (from + i) % m;
    const spoke = (i: number) => (from + i) % spokes;
    const angles = Array.from({ length: faces }, (_, i) => fan.angles[face(i)]);
    const total = angles.reduce((s, x) => s + x, 0);
    if (faces === 1 && a !== null && b !== null) {
      const point = put(crossing(fan, face(0), spoke(0), spoke(1), a, b));
      outline.set(fan.corners[face(0)], [point]);
      out.push({ from, to: spoke(1), points: [point] });
      return;
    }
    const slid: (Slid | null)[] = [];
    let turned = 0;
    // Spokes of the group from its first to its last; those of bevelled edges have no vertex of their own.
    for (let i = 0; i <= faces; i++) {
      const isEnd = (i === 0 && a !== null) || (i === faces && b !== null);
      slid.push(isEnd ? null : (slide(fan, spoke(i), turned, total, i, faces, a, b, put) ?? stay));
      turned += angles[i] ?? 0;
    }
    const points: Slid[] = [];
    turned = 0;
    for (let i = 0; i < faces; i++) {
      const mine = [slid[i], slid[i + 1]].filter((s): s is Slid => s !== null);
      // Where no spoke runs near the bisector of a wide group the corner itself is put into the face it lies in.
      const bisector = total / 2 - turned;
      const wide = faces >= 3 && a !== null && b !== null && Math.abs(total - Math.PI) > 0.35 && slid.some((s) => s !== null && s !== stay);
      if (wide && bisector > 0.17 && bisector < angles[i] - 0.17 && Math.sin(total / 2) > STEEP && from !== spoke(faces)) {
        const far = (a + b) / 2 / Math.sin(total / 2);
        mine.splice(slid[i] ? 1 : 0, 0, put(scaled(turnedWay(fan, face(i), bisector), far)));
      }
      for (const s of mine) if (points[points.length - 1]?.vertex !== s.vertex) points.push(s);
      const distinct = mine.filter((s, k) => k === 0 || s.vertex !== mine[k - 1].vertex);
      // The face runs from the later spoke to the earlier one.
      outline.set(fan.corners[face(i)], distinct.reverse());
    }
    out.push({ from, to: spoke(faces), points });
  };
  if (fan.closed) {
    for (const [i, from] of on.entries()) {
      const to = on[(i + 1) % on.length];
      one(from, ((to - from + m - 1) % m) + 1, width(from), width(to));
    }
    return out;
  }
  let before = 0;
  for (const [i, from] of [...on, spokes - 1].entries()) {
    const last = i === on.length;
    if (from > before || !last) one(before, from - before, i === 0 ? null : width(before), last ? null : width(from));
    before = from;
  }
  return out;
}

/** Where two bevelled edges of one face cross when each has moved in by its width. */
function crossing(fan: Fan, face: number, first: number, second: number, a: number, b: number): Vec3 {
  const [u, v] = [fan.ways[first], fan.ways[second]];
  const sine = Math.sin(fan.angles[face]);
  if (Math.abs(sine) < 0.02) return scaled(turnedWay(fan, face, fan.angles[face] / 2), (a + b) / 2);
  return vec3((k) => (b * u[k] + a * v[k]) / sine);
}

/** How far along an edge that stays the moved edges cut it; null where it stays whole. */
function slide(
  fan: Fan,
  spoke: number,
  turned: number,
  total: number,
  i: number,
  faces: number,
  a: number | null,
  b: number | null,
  put: (rate: Vec3) => Slid,
): Slid | null {
  const sines = [Math.sin(turned), Math.sin(total - turned)];
  const reach = [a !== null && sines[0] > STEEP ? a / sines[0] : null, b !== null && sines[1] > STEEP ? b / sines[1] : null];
  const alone = a === null || b === null;
  let far: number | null;
  if (alone || sameEnds(fan, faces)) {
    // A bevel that ends here: only the edges beside it are cut.
    const besideA = a !== null && i === 1;
    const besideB = b !== null && i === faces - 1;
    if (besideA && besideB) return null;
    far = besideA ? reach[0] : besideB ? reach[1] : null;
  } else if (faces === 2) {
    // The only edge between two bevels meets both of them half way.
    far = reach[0] !== null && reach[1] !== null ? (reach[0] + reach[1]) / 2 : (reach[0] ?? reach[1] ?? (a + b) / 2);
  } else {
    // Otherwise each keeps to the bevel it lies nearer to. None stays: the vertex can't be part of two groups.
    far = turned <= total / 2 ? (reach[0] ?? a) : (reach[1] ?? b);
  }
  return far === null ? null : put(scaled(fan.ways[spoke], far));
}
/** Whether a group goes all the way round, from the one bevelled edge of its fan back to it. */
const sameEnds = (fan: Fan, faces: number): boolean => fan.closed && faces === fan.corners.length;

const scaled = (v: Vec3, k: number): Vec3 => [v[0] * k, v[1] * k, v[2] * k];
