import { FormError } from '../../errors';
import { add, cross, dot, scale, sub, type Vec3 } from '../../maths/vec3';
import type { PolyMesh } from '../../mesh/polymesh';
import { millimetres } from '../../units/lengths';
import { Lofting } from '../loft';
import type { Adaptive } from '../step';
import { type Bounds, type OnOutline, type Place, type Placed, placeOf, under } from './plan';
import { type Spacing, spacedCount, spacings } from './spacing';
import { foldAt, type Surface } from './surface';

/** A sheet of an open section, ready to be built with any counts: columns across it, rows along it. */
export interface Sheet {
  columns: Spacing;
  rows: Spacing;
  /** Ends that close in a point. */
  poles: readonly [boolean, boolean];
  build(columns: number, rows: number): PolyMesh;
}

/** The wall of a sheet: how far its two sides stand off the drawn surface, mm, along its normals. Both the same: no wall. */
export interface Wall {
  up: number;
  low: number;
}

/** Rows nearer to each other than this share of the length are one. */
const CLOSE = 0.004;

/**
 * A grid over what bounds leave of a surface. Rows stand where sections do; towards an end they turn into the line that closes it.
 *
 * @throws FormError `sweep/corner` when the outline cuts off a corner of the sections, `sweep/fold` and `sweep/wall` where it would fold
 */
export function sheetOf(surface: Surface, bounds: Bounds, wall: Wall, step: string): Sheet {
  const grid = gridOf(surface, bounds, step);
  const surfaces = [wall.up, wall.low].map((off) => offset(surface, off));
  folded(surface, grid, step);
  if (wall.up > wall.low) fits(surface, grid, wall, step);
  const sides = wall.up === wall.low ? [surfaces[0]] : surfaces;
  const W = grid.rows[grid.rows.length - 1];
  const { columns, rows } = spacings({
    columns: grid.columns,
    rows: grid.rows,
    at: (u, w) => {
      const [s, t] = grid.at(u, w);
      return sides.map((side) => side(s, t));
    },
    edgeColumn: (u) => u === 0 || u === 1 || grid.hard.includes(u),
    edgeRow: (w) => (w === 0 && !grid.poles[0]) || (w === W && !grid.poles[1]),
  });
  return { columns, rows, poles: grid.poles, build: (n, m) => build(surface, grid, wall, columns.places(n), rows.places(m)) };
}

/**
 * The counts of a sheet, and its triangles by them. Sheets with at most one line that runs all along have a line down their middle, so that their
 * halves mirror each other.
 *
 * @param id of the step
 */
export function sheetPlan(
  sheet: Sheet,
  id: string,
  walled: boolean,
): { adaptive: [Adaptive, Adaptive]; triangles(n: number, k: number): number } {
  const poles = sheet.poles.filter(Boolean).length;
  return {
    adaptive: [
      spacedCount(`${id}.columns`, 'columns across it', sheet.columns, 2, sheet.columns.least <= 2 ? 2 : undefined),
      spacedCount(`${id}.rows`, 'rows along it', sheet.rows, 2),
    ],
    triangles(n, k) {
      const side = 2 * n * k - poles * n;
      return walled ? 2 * side + 4 * k + 2 * (2 - poles) * n : side;
    },
  };
}

/** The surface a distance off, along its normals. */
const offset = (surface: Surface, by: number): Placed =>
  by === 0 ? surface.at : (s, t) => add(surface.at(s, t), scale(surface.normal(s, t), by));

interface Grid {
  /** Fixed places of both: u from 0 to 1 across; w counts the stretches along. */
  columns: number[];
  rows: number[];
  poles: readonly [boolean, boolean];
  at(u: number, w: number): Place;
  edge(u: number, w: number): OnOutline | Place;
  /** Shares of the section with a hard line. */
  hard: number[];
}

function gridOf(surface: Surface, bounds: Bounds, step: string): Grid {
  const { long } = surface;
  const [a, b] = bounds.ends;
  const spread = (end: typeof a) => Array.from({ length: 33 }, (_, k) => placeOf(end.at(k / 32))[0]);
  const [first, last] = [Math.max(...spread(a)), Math.min(...spread(b))];
  const close = CLOSE * long;
  const inside = (s: number) => s > first + close && s < last - close;
  const kept: number[] = [];
  for (const list of [surface.stations, bounds.rows])
    for (const s of list) if (inside(s) && kept.every((k) => Math.abs(k - s) > close)) kept.push(s);
  kept.sort((p, q) => p - q);
  if (kept.length === 0) kept.push((first + last) / 2);
  const W = kept.length + 1;
  const lines = new Map<number, [Place, Place]>();
  const endsAt = [a, b].map((e) => [placeOf(e.at(0)), placeOf(e.at(1))]);
  const along = (w: number, k: 0 | 1): number => {
    const i = Math.min(W - 1, Math.max(0, Math.floor(w)));
    const at = (j: number) => (j === 0 ? endsAt[0][k][0] : j === W ? endsAt[1][k][0] : kept[j - 1]);
    return at(i) + (w - i) * (at(i + 1) - at(i));
  };
  const sides = (w: number): [Place, Place] => {
    const known = lines.get(w);
    if (known) return known;
    const found: [Place, Place] =
      w <= 0
        ? [endsAt[0][0], endsAt[0][1]]
        : w >= W
          ? [endsAt[1][0], endsAt[1][1]]
          : [placeOf(bounds.left(along(w, 0))), placeOf(bounds.right(along(w, 1)))];
    lines.set(w, found);
    return found;
  };
  // Lines that run all along: corners of the sections, and corners of what closes the ends.
  const middle = sides(W / 2);
  const hard = surface.sections.corners;
  for (let k = 0; k <= 8 * W; k++) {
    const [l, r] = sides(k / 8);
    const cut = hard.find((t) => (l[1] > t - 1e-6 || r[1] < t + 1e-6) && !(k === 0 && a.pole) && !(k === 8 * W && b.pole));
    if (cut !== undefined)
      throw new FormError(
        'sweep/corner',
        `The plan of “${step}” cuts off a corner of its sections ${millimetres(along(k / 8, 0), 1)} along the path: a corner has to run from end to end.`,
      );
  }
  const knots = hard.map((t) => ({ u: (t - middle[0][1]) / (middle[1][1] - middle[0][1]), t }));
  const columns = [0, ...knots.map((k) => k.u)];
  for (const u of [...a.corners, ...b.corners]) if (columns.every((c) => Math.abs(c - u) > 0.02) && u < 0.98) columns.push(u);
  columns.push(1);
  columns.sort((p, q) => p - q);
  const share = (u: number, from: number, to: number): number =>
    bent(u, [[0, from], ...knots.map((k): [number, number] => [k.u, k.t]), [1, to]]);
  const ends = [a, b].map((e) => {
    const pins: [number, number][] = [
      [0, 0],
      ...knots.map((k): [number, number] => [k.u, e.share(k.t)]),
      ...e.corners.flatMap((c): [number, number][] => {
        const u = columns.find((x) => Math.abs(x - c) <= 0.02) ?? c;
        return knots.some((k) => Math.abs(k.u - u) < 1e-9) ? [] : [[u, c]];
      }),
      [1, 1],
    ];
    pins.sort((p, q) => p[0] - q[0]);
    const memo = new Map<number, OnOutline | Place>();
    return (u: number): OnOutline | Place => {
      const known = memo.get(u) ?? e.at(bent(u, pins));
      memo.set(u, known);
      return known;
    };
  });
  const plain = (u: number, w: number): Place => {
    const [l, r] = sides(w);
    return [l[0] + u * (r[0] - l[0]), share(u, l[1], r[1])];
  };
  const off = (e: 0 | 1, u: number): Place => {
    const [p, q] = [placeOf(ends[e](u)), plain(u, e === 0 ? 0 : W)];
    return [p[0] - q[0], p[1] - q[1]];
  };
  return {
    columns,
    rows: Array.from({ length: W + 1 }, (_, i) => i),
    poles: [a.pole, b.pole],
    hard: knots.map((k) => k.u),
    at(u, w) {
      const p = plain(u, w);
      const [f, g] = [Math.max(0, 1 - w), Math.max(0, 1 - (W - w))];
      if (f === 0 && g === 0) return p;
      const [d, e] = [f > 0 ? off(0, u) : NONE, g > 0 ? off(1, u) : NONE];
      return [p[0] + f * d[0] + g * e[0], p[1] + f * d[1] + g * e[1]];
    },
    edge(u, w) {
      if (w <= 0) return ends[0](u);
      if (w >= W) return ends[1](u);
      return u <= 0 ? bounds.left(along(w, 0)) : bounds.right(along(w, 1));
    },
  };
}
const NONE: Place = [0, 0];

/** A broken line through pins, ascending. */
function bent(x: number, pins: readonly (readonly [number, number])[]): number {
  const i = Math.max(
    1,
    Math.min(
      pins.length - 1,
      pins.findIndex((p) => p[0] >= x),
    ),
  );
  const [p, q] = [pins[i - 1], pins[i]];
  return p[1] + ((x - p[0]) / Math.max(1e-12, q[0] - p[0])) * (q[1] - p[1]);
}

/** Places a grid is looked at when it is asked whether it folds. */
const LOOKS = 24;
function* looks(grid: Grid, surface: Surface): Generator<Place> {
  const W = grid.rows[grid.rows.length - 1];
  for (let j = 0; j <= LOOKS; j++)
    for (let i = 0; i <= LOOKS; i++) {
      const place = grid.at(i / LOOKS, (j / LOOKS) * W);
      // On a crease there is no one direction to look along.
      if (surface.sections.corners.every((t) => Math.abs(t - place[1]) > CREASE)) yield place;
    }
}
/** Shares of a section nearer to a corner than this are on it. */
const CREASE = 0.003;

/** @throws FormError where the sections reach beyond what their path bends round */
function folded(surface: Surface, grid: Grid, step: string): void {
  const h = surface.long * 1e-4;
  for (const [s, t] of looks(grid, surface)) {
    const along = sub(surface.at(s + h, t), surface.at(s - h, t));
    if (dot(along, surface.track.at(s).travel) > 0) continue;
    throw foldAt(surface, s, step);
  }
}

/** @throws FormError when a side of the wall would fold, with what fits */
function fits(surface: Surface, grid: Grid, wall: Wall, step: string): void {
  const [hs, ht] = [surface.long * 1e-3, 1e-3];
  let most: { mm: number; where: Vec3 } | null = null;
  for (const [s, t] of looks(grid, surface)) {
    const n = surface.normal(s, t);
    const along = sub(surface.at(s + hs, t), surface.at(s - hs, t));
    const across = sub(surface.at(s, t + ht), surface.at(s, t - ht));
    const size = dot(cross(along, across), n);
    if (!(size > 1e-12)) continue;
    const turnAlong = sub(surface.normal(s + hs, t), surface.normal(s - hs, t));
    const turnAcross = sub(surface.normal(s, t + ht), surface.normal(s, t - ht));
    // The area of a surface a distance d off is 1 − 2Hd + Kd² of it (Steiner 1840); it folds where that comes to nothing.
    const twoH = -(dot(cross(turnAlong, across), n) + dot(cross(along, turnAcross), n)) / size;
    const k = dot(cross(turnAlong, turnAcross), n) / size;
    const root = Math.sqrt(Math.max(0, (twoH / 2) ** 2 - k));
    for (const bend of [twoH / 2 + root, twoH / 2 - root])
      for (const off of [wall.up, wall.low]) {
        if (1 - bend * off > 0.02) continue;
        const mm = Math.abs(1 / bend);
        if (!most || mm < most.mm) most = { mm, where: surface.at(s, t) };
      }
  }
  if (most)
    throw new FormError(
      'sweep/wall',
      `A wall of ${millimetres(wall.up - wall.low)} doesn’t fit “${step}”: near ${most.where.map((x) => millimetres(x, 0)).join(', ')} it bends round ${millimetres(most.mm, 2)} on that side.`,
      { mostMm: most.mm },
    );
}

/** Where a boundary place comes to lie on a side of the wall: straight above or below it on a plan, along the normal without one. */
function moved(surface: Surface, side: Placed, o: OnOutline | Place): Place {
  if (!('place' in o) || side === surface.at) return placeOf(o);
  return under(side, o.plan, o.place, surface.long) ?? o.place;
}

function build(surface: Surface, grid: Grid, wall: Wall, us: readonly number[], ws: readonly number[]): PolyMesh {
  const mesh = new Lofting();
  const [n, m] = [us.length - 1, ws.length - 1];
  const layer = (by: number): number[][] => {
    const side = offset(surface, by);
    const shift = (u: number, w: number): Place => {
      const o = grid.edge(u, w);
      const [p, q] = [moved(surface, side, o), placeOf(o)];
      return [p[0] - q[0], p[1] - q[1]];
    };
    const nothing = by === 0;
    const left = ws.map((w) => (nothing ? NONE : shift(0, w)));
    const right = ws.map((w) => (nothing ? NONE : shift(1, w)));
    const ends = [0, m].map((j) => us.map((u) => (nothing ? NONE : shift(u, ws[j]))));
    // What the rim is moved by spreads inward as a Coons patch (Coons 1967): rows and columns stay smooth.
    const spread = (i: number, j: number, k: 0 | 1): number => {
      if (j === 0) return ends[0][i][k];
      if (j === m) return ends[1][i][k];
      const [u, v] = [us[i], j / m];
      const ruled = (1 - u) * left[j][k] + u * right[j][k] + (1 - v) * ends[0][i][k] + v * ends[1][i][k];
      const corners = (1 - u) * (1 - v) * ends[0][0][k] + u * (1 - v) * ends[0][n][k] + (1 - u) * v * ends[1][0][k] + u * v * ends[1][n][k];
      return ruled - corners;
    };
    return ws.map((w, j) => {
      const pole = (j === 0 && grid.poles[0]) || (j === m && grid.poles[1]);
      const put = (i: number) => {
        const [s, t] = grid.at(us[i], w);
        return mesh.vertex(side(s + spread(i, j, 0), t + spread(i, j, 1)));
      };
      if (!pole) return us.map((_, i) => put(i));
      const one = put(0);
      return us.map(() => one);
    });
  };
  const hard = us.map((u) => grid.hard.some((h) => Math.abs(h - u) < 1e-9));
  const face = (ids: number[][], patch: string, rim: boolean, upward: boolean): void => {
    for (let j = 0; j < m; j++)
      for (let i = 0; i < n; i++) {
        const corners: [number, number, number, boolean][] = [
          [ids[j][i], us[i], j / m, hard[i] || (rim && i === 0)],
          [ids[j + 1][i], us[i], (j + 1) / m, rim && j === m - 1],
          [ids[j + 1][i + 1], us[i + 1], (j + 1) / m, hard[i + 1] || (rim && i === n - 1)],
          [ids[j][i + 1], us[i + 1], j / m, rim && j === 0],
        ];
        put(mesh, corners, patch, upward);
      }
  };
  const { up, low } = wall;
  const top = layer(up);
  if (up === low) {
    face(top, 'upper', false, true);
    return mesh.build();
  }
  const foot = layer(low);
  face(top, 'upper', true, true);
  face(foot, 'lower', true, false);
  const strip = (patch: string, a: readonly number[], b: readonly number[], along: readonly number[]): void => {
    for (let k = 0; k + 1 < a.length; k++) {
      if (a[k] === a[k + 1]) continue;
      const ends = [k === 0, k + 2 === a.length];
      put(
        mesh,
        [
          [a[k], along[k], 1, true],
          [a[k + 1], along[k + 1], 1, ends[1]],
          [b[k + 1], along[k + 1], 0, true],
          [b[k], along[k], 0, ends[0]],
        ],
        patch,
        true,
      );
    }
  };
  const vs = ws.map((_, j) => j / m);
  const column = (ids: number[][], i: number) => ids.map((row) => row[i]);
  const back = <T>(list: readonly T[]): T[] => [...list].reverse();
  strip('left edge', back(column(top, 0)), back(column(foot, 0)), back(vs));
  strip('right edge', column(top, n), column(foot, n), vs);
  strip('start', top[0], foot[0], us);
  strip('end', back(top[m]), back(foot[m]), back(us));
  return mesh.build();
}

/** A face by its corners, each with its coordinates and whether the edge that follows is hard; corners that meet are one. */
function put(mesh: Lofting, corners: readonly (readonly [number, number, number, boolean])[], patch: string, upward: boolean): void {
  let list = corners.map(([id, u, v, hard]) => ({ id, u, v, hard }));
  if (!upward) {
    // The other way round: the edge after a corner is the one that came before it.
    const n = list.length;
    list = list.map((_, k) => ({ ...list[n - 1 - k], hard: list[(2 * n - 2 - k) % n].hard }));
  }
  const kept = list.filter((c, k) => c.id !== list[(k + 1) % list.length].id);
  mesh.facet(
    kept.map((c) => c.id),
    patch,
    kept.flatMap((c) => [c.u, c.v]),
    kept.map((c) => c.hard),
  );
}
