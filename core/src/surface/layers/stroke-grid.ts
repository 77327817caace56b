import { InputError } from '../../errors';
import { type PatchIndex, patchIndex, spotAt, spotOf } from '../../form/places';
import { shellsOf } from '../../mesh/connectivity';
import type { PolyMesh } from '../../mesh/polymesh';
import { twinFaces } from '../../uv/twins';
import { ramp } from './draw';
import type { Place } from './place';
import type { Boards } from './places';
import { MOST_STROKES, POINT, type Stroke } from './strokes';

/** A stroke where it lies on a mesh: {@link POINT} numbers a point, the last its radius in mm. */
interface Found {
  points: Float64Array;
  /** Number of the shell it stays on; −1 for all. */
  shell: number;
}

/** Strokes as they were found on meshes, for as long as these are there: while one is drawn all the others stay. */
const found = new WeakMap<PolyMesh, { index: PatchIndex; byText: Map<string, Found[]> }>();
const MOST_FOUND = 4 * MOST_STROKES;

/** Finds a stroke on its part, and its other half. @param first number of the part’s first shell */
function foundOn(stroke: Stroke, mesh: PolyMesh, ofFace: Uint32Array, first: number): Found[] {
  const of = found.get(mesh) ?? { index: patchIndex(mesh), byText: new Map<string, Found[]>() };
  found.set(mesh, of);
  const text = JSON.stringify(stroke);
  const known = of.byText.get(text);
  if (known) return known;
  const { on, board, radius, mirror } = stroke;
  const points = Float64Array.from(stroke.points);
  for (let i = 0, n = 0; i < points.length; i += POINT, n += 3) {
    const patch = on && on.spots[n] >= 0 ? on.patches[on.spots[n]] : null;
    const at = patch !== null && on ? spotAt(mesh, of.index, { patch, u: on.spots[n + 1], v: on.spots[n + 2] }) : null;
    if (at) points.set([...at.point, ...at.normal], i);
    points[i + 6] *= radius;
  }
  const out: Found[] = [{ points, shell: board === undefined ? -1 : first + board }];
  if (mirror) {
    const k = { x: 0, y: 1, z: 2 }[mirror];
    let [low, high] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
    for (let v = k; v < mesh.positions.length; v += 3) {
      low = Math.min(low, mesh.positions[v]);
      high = Math.max(high, mesh.positions[v]);
    }
    const other = points.map((x, i) => (i % POINT === k ? low + high - x : i % POINT === k + 3 ? -x : x));
    out.push({ points: other, shell: board === undefined ? -1 : shellAt(mesh, ofFace, other) });
  }
  if (of.byText.size >= MOST_FOUND) of.byText.clear();
  of.byText.set(text, out);
  return out;
}

/** The shell with the corner nearest to a place. */
function shellAt(mesh: PolyMesh, ofFace: Uint32Array, at: ArrayLike<number>): number {
  let [best, least] = [-1, Number.POSITIVE_INFINITY];
  for (let f = 0; f < ofFace.length; f++)
    for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
      const v = 3 * mesh.faceVert[c];
      const d = (mesh.positions[v] - at[0]) ** 2 + (mesh.positions[v + 1] - at[1]) ** 2 + (mesh.positions[v + 2] - at[2]) ** 2;
      if (d < least) [best, least] = [ofFace[f], d];
    }
  return best;
}

/** Numbers of a piece of a stroke between two of its points: their {@link POINT}s, its stroke, whether that erases, its shell. */
const PIECE = 2 * POINT + 3;

/** Strokes over one part, found again by where they lie. */
export class StrokeGrid {
  private readonly pieces: Float64Array;
  private readonly cells = new Map<number, number[]>();
  private readonly cell: number;
  /** What the latest strokes cover of a place, those that erase less than nothing. */
  private readonly later = new Float64Array(MOST_STROKES);

  /** @param soft share of the radius over which a stroke fades out */
  constructor(
    strokes: readonly { erases: boolean; found: readonly Found[] }[],
    private readonly soft: number,
  ) {
    const rows: number[] = [];
    let [widest, far] = [0, 0];
    for (const [n, { erases, found: halves }] of strokes.entries())
      for (const { points, shell } of halves)
        for (let i = 0; i < points.length; i += POINT) {
          // A dab alone is a piece from its point to itself.
          const to = i + POINT < points.length ? i + POINT : i;
          if (to === i && i > 0) break;
          rows.push(...points.subarray(i, i + POINT), ...points.subarray(to, to + POINT), n, erases ? 1 : 0, shell);
          widest = Math.max(widest, points[i + 6], points[to + 6]);
          for (let k = 0; k < 3; k++) far = Math.max(far, Math.abs(points[i + k]), Math.abs(points[to + k]));
        }
    this.pieces = Float64Array.from(rows);
    // Cells much smaller than the part would be many more than a stroke has places.
    this.cell = Math.max(2 * widest, far / 1024, 1e-3);
    const step = this.cell / 2;
    for (let o = 0; o < rows.length; o += PIECE) {
      const way = [0, 1, 2].map((k) => rows[o + POINT + k] - rows[o + k]);
      const steps = Math.max(1, Math.ceil(Math.hypot(way[0], way[1], way[2]) / step));
      // A soft edge reaches half a radius farther; what lies within reach of the piece lies within this of one of its steps.
      const r = 1.5 * Math.max(rows[o + 6], rows[o + POINT + 6]) + step / 2;
      for (let s = 0; s <= steps; s++)
        this.put(
          o,
          [0, 1, 2].map((k) => rows[o + k] + (s / steps) * way[k]),
          r,
        );
    }
  }

  /** Notes a piece in all cells within reach of a place of it. */
  private put(o: number, at: readonly number[], r: number): void {
    const [low, high] = [-r, r].map((by) => at.map((v) => Math.floor((v + by) / this.cell)));
    for (let a = low[0]; a <= high[0]; a++)
      for (let b = low[1]; b <= high[1]; b++)
        for (let c = low[2]; c <= high[2]; c++) {
          const key = keyOf(a, b, c);
          const list = this.cells.get(key);
          if (!list) this.cells.set(key, [o]);
          else if (list[list.length - 1] !== o) list.push(o);
        }
  }

  /** What of a place is painted once all strokes were drawn, one after the other, 0 … 1. @param shell number of the shell it lies on */
  at(p: Place, shell: number): number {
    const { cell, pieces } = this;
    const list = this.cells.get(keyOf(Math.floor(p.x / cell), Math.floor(p.y / cell), Math.floor(p.z / cell)));
    if (!list) return 0;
    // From the last stroke back to one that takes all of it: what was there before says nothing any more.
    const { later } = this;
    let [count, amount] = [0, 0];
    for (let i = list.length; i > 0; ) {
      const stroke = pieces[list[i - 1] + 2 * POINT];
      const erases = pieces[list[i - 1] + 2 * POINT + 1] === 1;
      let covered = 0;
      for (; i > 0 && pieces[list[i - 1] + 2 * POINT] === stroke; i--) {
        const only = pieces[list[i - 1] + 2 * POINT + 2];
        if (covered < 1 && (only < 0 || only === shell)) covered = Math.max(covered, this.cover(list[i - 1], p));
      }
      if (covered >= 1) {
        amount = erases ? 0 : 1;
        break;
      }
      if (covered > 0) later[count++] = erases ? -covered : covered;
    }
    while (count > 0) {
      const c = later[--count];
      amount = c < 0 ? amount * (1 + c) : Math.max(amount, c);
    }
    return amount;
  }

  private cover(o: number, p: Place): number {
    const { pieces: s, soft } = this;
    const [dx, dy, dz] = [s[o + POINT] - s[o], s[o + POINT + 1] - s[o + 1], s[o + POINT + 2] - s[o + 2]];
    const [px, py, pz] = [p.x - s[o], p.y - s[o + 1], p.z - s[o + 2]];
    const long = dx * dx + dy * dy + dz * dz;
    const t = long > 0 ? Math.min(1, Math.max(0, (px * dx + py * dy + pz * dz) / long)) : 0;
    const r = s[o + 6] + t * (s[o + POINT + 6] - s[o + 6]);
    const d = Math.sqrt((px - t * dx) ** 2 + (py - t * dy) ** 2 + (pz - t * dz) ** 2);
    const half = Math.min(0.5 * r, Math.max(soft * r, p.footprint) / 2);
    const middle = r - (soft * r) / 2;
    if (d >= middle + half) return 0;
    // The other side of a thin wall isn’t painted; what bends away at an edge is.
    let facing = 0;
    for (let k = 0; k < 3; k++)
      facing += (s[o + 3 + k] + t * (s[o + POINT + 3 + k] - s[o + 3 + k])) * (k === 0 ? p.nx : k === 1 ? p.ny : p.nz);
    return (1 - ramp(d, middle - half, middle + half)) * ramp(facing, -0.4, -0.1);
  }
}

/** Three cell numbers as one: exact to ± 2¹⁶ cells either way. */
const keyOf = (a: number, b: number, c: number): number => ((a + 65536) * 131072 + (b + 65536)) * 131072 + (c + 65536);

/** The strokes over one part of those that are composed; null where there are none. @param soft share of the radius over which they fade out */
export function strokesOn(strokes: readonly Stroke[], soft: number, boards: Boards, part: number): StrokeGrid | null {
  const on = boards.parts[part];
  const mine = on ? strokes.filter((s) => s.part === on.id) : [];
  if (mine.length === 0) return null;
  const first = boards.shells.findIndex((s) => s.part === part);
  return new StrokeGrid(
    mine.map((s) => ({ erases: s.erases, found: foundOn(s, on.mesh, boards.ofFace[part], first) })),
    soft,
  );
}

/** How far a point may lie beside the straight between its neighbours, of the radius, and still be left out. */
const STRAIGHT = 0.04;

/**
 * A stroke’s points without those that lie on the way between their neighbours (Douglas and Peucker 1973, in space), rounded to a thousandth
 * of a millimetre.
 *
 * @returns which were kept
 */
export function plainer(points: readonly number[], radius: number): number[] {
  const count = points.length / POINT;
  if (count <= 2) return Array.from({ length: count }, (_, i) => i);
  const keep = new Set([0, count - 1]);
  const at = (i: number, k: number) => points[POINT * i + k];
  const off = (i: number, a: number, b: number): number => {
    const d = [0, 1, 2].map((k) => at(b, k) - at(a, k));
    const e = [0, 1, 2].map((k) => at(i, k) - at(a, k));
    const long = d.reduce((s, x) => s + x * x, 0);
    const t = long > 0 ? Math.min(1, Math.max(0, e.reduce((s, x, k) => s + x * d[k], 0) / long)) : 0;
    const beside = Math.hypot(...e.map((x, k) => x - t * d[k])) / (STRAIGHT * radius);
    // Where it turns over an edge, or the pen was pressed harder.
    const turned = 1 - [3, 4, 5].reduce((s, k) => s + at(i, k) * (at(a, k) + t * (at(b, k) - at(a, k))), 0);
    const pressed = Math.abs(at(i, 6) - (at(a, 6) + t * (at(b, 6) - at(a, 6)))) / STRAIGHT;
    return Math.max(beside, turned / 0.02, pressed);
  };
  const halve = (a: number, b: number): void => {
    let [worst, most] = [-1, 1];
    for (let i = a + 1; i < b; i++) {
      const o = off(i, a, b);
      if (o > most) [worst, most] = [i, o];
    }
    if (worst < 0) return;
    keep.add(worst);
    halve(a, worst);
    halve(worst, b);
  };
  halve(0, count - 1);
  return [...keep].sort((a, b) => a - b);
}

/** A stroke as it was drawn over a part. */
export interface DrawnStroke extends Pick<Stroke, 'part' | 'erases' | 'radius' | 'points' | 'mirror'> {
  /** The face under each point. */
  faces: number[];
  /** Whether it stays on the piece that it began on. */
  alone: boolean;
}

/**
 * A stroke as it is kept: without the points it doesn’t need, with its places on the part’s patches.
 *
 * @throws InputError where it was drawn over texels that others share
 */
export function strokeFrom(mesh: PolyMesh, { part, erases, radius, points, mirror, faces, alone }: DrawnStroke): Stroke {
  const twins = twinFaces(mesh);
  if (twins && faces.every((f) => twins[f]))
    throw new InputError('stroke/twin', 'This place has the texels of another like it: paint that one, and both are painted.');
  const rounded = points.map((x, i) => (i % POINT < 3 ? Math.round(1000 * x) / 1000 : Math.round(10_000 * x) / 10_000));
  const kept = plainer(points, radius);
  const patches: string[] = [];
  const spots = kept.flatMap((i) => {
    const at = spotOf(mesh, faces[i], [points[POINT * i], points[POINT * i + 1], points[POINT * i + 2]]);
    if (!at) return [-1, 0, 0];
    if (!patches.includes(at.patch)) patches.push(at.patch);
    return [patches.indexOf(at.patch), at.u, at.v];
  });
  const board = shellsOf(mesh).ofFace[faces[0]];
  return {
    part,
    erases,
    radius,
    points: kept.flatMap((i) => rounded.slice(POINT * i, POINT * (i + 1))),
    ...(patches.length > 0 && { on: { patches, spots } }),
    ...(alone && { board }),
    ...(mirror && { mirror }),
  };
}
