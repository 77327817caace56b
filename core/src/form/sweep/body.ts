import { FormError } from '../../errors';
import { add, dot, scale, sub, type Vec3 } from '../../maths/vec3';
import type { PolyMesh } from '../../mesh/polymesh';
import { millimetres } from '../../units/lengths';
import { loft } from '../loft';
import { type Spacing, spacings } from './spacing';
import { foldAt, type Surface } from './surface';

/** A solid of closed sections, ready to be built with any counts: sides round it, rows along it. */
export interface Body {
  sides: Spacing;
  rows: Spacing;
  poles: readonly [boolean, boolean];
  build(sides: number, rows: number): PolyMesh;
}

/** Rows nearer to each other than this share of the length are one. */
const CLOSE = 0.004;
/** A section no larger than this is a point, mm. */
const POINT = 1e-6;
/** Places along and around that are looked at. */
const LOOKS = 48;

/** @throws FormError `sweep/…` where it pinches, flattens or folds */
export function bodyOf(surface: Surface, step: string): Body {
  const { long, sections } = surface;
  const close = CLOSE * long;
  const kept = [0, long];
  const bends = surface.track.pieces.slice(0, -1).map((p) => p.end);
  for (const list of [surface.stations, bends]) for (const s of list) if (kept.every((k) => Math.abs(k - s) > close)) kept.push(s);
  kept.sort((a, b) => a - b);
  const poles = [0, long].map((s) => sizeAt(surface, s).least < POINT) as [boolean, boolean];
  sound(surface, poles, step);
  const fixed = sections.corners.length > 0 ? [...sections.corners, 1] : [0, 1];
  const rowsAt = new Map<number, (t: number) => Vec3>();
  const rowAt = (s: number) => {
    const row = rowsAt.get(s) ?? surface.row(s);
    rowsAt.set(s, row);
    return row;
  };
  const { columns: sides, rows } = spacings({
    columns: fixed,
    rows: kept,
    at: (t, s) => [rowAt(s)(t)],
    edgeColumn: (t) => sections.corners.includes(t) || (t === 1 && sections.corners.length > 0),
    edgeRow: (s) => (s === 0 && !poles[0]) || (s === long && !poles[1]),
  });
  return { sides, rows, poles, build: (n, m) => build(surface, poles, sides.places(n), rows.places(m)) };
}

function sizeAt(surface: Surface, s: number): { least: number; most: number } {
  const row = surface.row(s);
  const p = Array.from({ length: LOOKS }, (_, k) => row(k / LOOKS));
  const rider = surface.track.at(s);
  let [least, most] = [Number.POSITIVE_INFINITY, 0];
  // The narrowest and the widest way across it, over a half turn.
  for (let k = 0; k < 12; k++) {
    const a = (k / 12) * Math.PI;
    const way = add(scale(rider.across, Math.cos(a)), scale(rider.up, Math.sin(a)));
    const far = p.map((q) => dot(q, way));
    const wide = Math.max(...far) - Math.min(...far);
    [least, most] = [Math.min(least, wide), Math.max(most, wide)];
  }
  return { least, most };
}

/** @throws FormError where it comes to nothing between its ends, becomes flat, or folds over itself */
function sound(surface: Surface, poles: readonly [boolean, boolean], step: string): void {
  const { long } = surface;
  for (const s of [...Array.from({ length: LOOKS + 1 }, (_, j) => (j / LOOKS) * long), ...surface.marks]) {
    const { least, most } = sizeAt(surface, s);
    if (least < POINT) {
      if (most > POINT)
        throw new FormError(
          'sweep/flat',
          `The section of “${step}” has no thickness ${millimetres(s, 1)} along its path; give it some, or none at all at an end.`,
        );
      if (!((s === 0 && poles[0]) || (s === long && poles[1])))
        throw new FormError('sweep/flat', `“${step}” comes to nothing ${millimetres(s, 1)} along its path; only its ends may.`);
      continue;
    }
    const h = long * 1e-4;
    const [a, b] = [surface.row(Math.max(0, s - h)), surface.row(Math.min(long, s + h))];
    const { travel } = surface.track.at(s);
    for (let k = 0; k < LOOKS; k++) {
      if (dot(sub(b(k / LOOKS), a(k / LOOKS)), travel) > 0) continue;
      throw foldAt(surface, s, step);
    }
  }
}

function build(surface: Surface, poles: readonly [boolean, boolean], ts: readonly number[], ss: readonly number[]): PolyMesh {
  const n = ts.length - 1;
  const m = ss.length - 1;
  const { corners } = surface.sections;
  const runs = corners.length > 0 ? [...corners, 1] : [0, 1];
  const isCorner = (t: number) => corners.some((c) => Math.abs(c - t) < 1e-9);
  const loops = ss.map((s, j): Vec3[] => {
    const row = surface.row(s);
    if ((j === 0 && poles[0]) || (j === m && poles[1])) return [surface.track.at(s).point];
    return ts.slice(0, n).map((t) => row(t));
  });
  return loft({
    loops,
    ...(!poles[0] && { start: 'start' }),
    ...(!poles[1] && { end: 'end' }),
    face(j, i) {
      const k = Math.max(
        0,
        runs.findLastIndex((r) => r <= ts[i] + 1e-12),
      );
      const [from, to] = [runs[k], runs[k + 1]];
      const u = (t: number) => Math.min(1, Math.max(0, (t - from) / (to - from)));
      return {
        patch: corners.length > 1 ? `side ${k + 1}` : 'side',
        u: [u(ts[i]), u(ts[i + 1])],
        v: [j / m, (j + 1) / m],
        hard: [j === 0 && !poles[0], isCorner(ts[i + 1] % 1), j === m - 1 && !poles[1], isCorner(ts[i])],
      };
    },
  });
}
