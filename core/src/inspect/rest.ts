import { convexHull } from '../maths/hull';
import { IDENTITY, type Mat4, multiply, rotation, transformDirection, transformPoint, translation } from '../maths/mat4';
import type { Vec3 } from '../maths/vec3';
import { boundsOf, isWatertight, volumeOf } from '../mesh/measures';
import { type BoxTree, boxTree, nearest, nearPlaces } from '../mesh/pairs';
import { type PolyMesh, triangleCount, vertexCount } from '../mesh/polymesh';
import { soupOf } from '../mesh/soup';
import { transform } from '../mesh/transform';
import { meshTree } from '../rays/of-mesh';
import { RayQuery } from '../rays/query';
import { checkpoint, QUIET, type Task } from '../task';

/** Where a piece came to rest. */
export interface Resting {
  /** What moves it there, in the asset's space. */
  by: Mat4;
  /** Where it touches what is under it, a few of those places. */
  contacts: Vec3[];
  /** Nearest distance that is left, mm. */
  gap: number;
  /** The tilt at which it tips over its nearest edge, degrees; 0 where it doesn't stand by itself. */
  tipsAt: number;
}

/** Places whose clearance is looked at while the tilt is sought; all are when it is found. */
const ACTIVE = 500;
/** Sides of each that are looked at where they cross. */
const SIDES = 48;
/** Long sides are asked at so many places. */
const ON_SIDE = 8;
/** The search: its first and its last step, radians, and steps at most. */
const [FIRST, LAST, STEPS] = [0.01, 2e-8, 900];
/** What is left between two surfaces in contact, mm, and what still counts as touching. */
const [CONTACT, TOUCHES] = [1e-3, 8e-3];
/** Places of contact that are told at most. */
const MOST = 4000;
/** Rounds in which places that got in the way are taken into account. */
const ROUNDS = 6;

/**
 * Lets a piece down onto what is under it until it lies still. Of all tilts near the one it has, the resting one is that at which its
 * centre of mass lies lowest when it is let down straight (the least potential energy; what it rolls through on the way lies ever lower, so
 * it is found by going down step by step). It is not turned about the vertical. The last of the way is gone by exact distances, so that the
 * surfaces neither part nor overlap.
 *
 * @param piece in the asset's space, y up
 * @param ground what it may come to lie on; with a level floor below it all
 * @param floor height of that floor, mm
 */
export function comeToRest(piece: PolyMesh, ground: PolyMesh | null, floor: number, task: Task = QUIET): Resting {
  const centre = centreOfMass(piece);
  const drop = new Drop(piece, ground, floor, centre);
  let turn: Mat4 = IDENTITY;
  for (let round = 0; round < ROUNDS; round++) {
    checkpoint(task);
    task.progress(round / ROUNDS, 'coming to rest');
    drop.lookAt(turn);
    const found = lowest(drop, turn);
    const settled = drop.clearance(found.turn, true) >= drop.clearance(found.turn, false) - 1e-9;
    turn = found.turn;
    if (settled) break;
  }
  const { lift, gap } = drop.land(turn);
  const by = multiply(translation([0, lift, 0]), about(centre, turn));
  const contacts = drop.contacts(by);
  return { by, contacts, gap, tipsAt: tipping(contacts, transformPoint(by, centre)) };
}

const about = (p: Vec3, turn: Mat4): Mat4 => multiply(translation(p), multiply(turn, translation([-p[0], -p[1], -p[2]])));

/** Of uniform stuff where the mesh is closed, of a skin where it is open. */
function centreOfMass(mesh: PolyMesh): Vec3 {
  const soup = soupOf(mesh);
  const solid = isWatertight(mesh) && Math.abs(volumeOf(mesh)) > 1e-9;
  const sum = [0, 0, 0];
  let whole = 0;
  for (let t = 0; t < 9 * triangleCount(mesh); t += 9) {
    const [a, b, c] = [0, 3, 6].map((i) => [soup[t + i], soup[t + i + 1], soup[t + i + 2]]);
    const n = [
      (b[1] - a[1]) * (c[2] - a[2]) - (b[2] - a[2]) * (c[1] - a[1]),
      (b[2] - a[2]) * (c[0] - a[0]) - (b[0] - a[0]) * (c[2] - a[2]),
      (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]),
    ];
    const weight = solid ? (a[0] * n[0] + a[1] * n[1] + a[2] * n[2]) / 6 : Math.hypot(...n) / 2;
    whole += weight;
    // The middle of a tetrahedron on the origin, or of a triangle.
    for (let k = 0; k < 3; k++) sum[k] += (weight * (a[k] + b[k] + c[k])) / (solid ? 4 : 3);
  }
  return [sum[0] / whole, sum[1] / whole, sum[2] / whole];
}

/** How far a tilted piece can be let down. */
class Drop {
  private readonly own: Places;
  private readonly under: Places;
  private readonly groundQuery: RayQuery | null;
  private readonly pieceQuery: RayQuery;
  private readonly groundTree: BoxTree | null;
  /** Those of each that are looked at. */
  private mine: Uint32Array = new Uint32Array();
  private theirs: Uint32Array = new Uint32Array();
  /** Sides of each that may lie across each other. */
  private mySides: number[] = [];
  private theirSides: number[] = [];
  readonly size: number;

  constructor(
    private readonly piece: PolyMesh,
    ground: PolyMesh | null,
    private readonly floor: number,
    private readonly centre: Vec3,
  ) {
    this.own = placesOf(piece);
    this.under = ground ? placesOf(ground) : { at: new Float64Array(), side: new Int32Array(), sides: new Float64Array() };
    this.groundQuery = ground ? new RayQuery(meshTree(ground)) : null;
    this.groundTree = ground ? boxTree(ground) : null;
    this.pieceQuery = new RayQuery(meshTree(piece));
    const { min, max } = boundsOf(piece);
    this.size = Math.hypot(...[0, 1, 2].map((k) => max[k] - min[k]));
  }

  /** Chooses the places that have the least clearance at a tilt. */
  lookAt(turn: Mat4): void {
    const choose = (n: number, at: (i: number) => number): Uint32Array =>
      Uint32Array.from(
        Array.from({ length: n }, (_, i) => [i, at(i)] as const)
          .filter(([, h]) => h < Infinity)
          .sort((p, q) => p[1] - q[1])
          .slice(0, ACTIVE)
          .map(([i]) => i),
      );
    const m = about(this.centre, turn);
    const back = inverseTurn(turn);
    this.mine = choose(this.own.side.length, (i) => this.below(m, i));
    this.theirs = choose(this.under.side.length, (i) => this.above(back, i));
    const sidesOf = (places: Places, chosen: Uint32Array): number[] =>
      [...new Set(Array.from(chosen, (i) => places.side[i]).filter((k) => k >= 0))].slice(0, SIDES);
    this.mySides = sidesOf(this.own, this.mine);
    this.theirSides = sidesOf(this.under, this.theirs);
  }

  /** How far a place of the piece is above what is under it. */
  private below(m: Mat4, i: number): number {
    const [x, y, z] = transformPoint(m, [this.own.at[3 * i], this.own.at[3 * i + 1], this.own.at[3 * i + 2]]);
    let far = y - this.floor;
    // From a little above: what it stands in already is in its way too.
    const query = this.groundQuery;
    const head = HEAD * this.size;
    if (query?.closest(x, y + head, z, 0, -1, 0, 0, Infinity)) far = Math.min(far, query.t - head);
    return far;
  }
  /** How far a place of the ground is below the piece. */
  private above(back: Mat4, i: number): number {
    const { at } = this.under;
    const p: Vec3 = [at[3 * i] - this.centre[0], at[3 * i + 1] - this.centre[1], at[3 * i + 2] - this.centre[2]];
    const [x, y, z] = transformPoint(back, p);
    const [dx, dy, dz] = transformDirection(back, [0, 1, 0]);
    // From a little below: the underside of the piece may have passed it.
    const far = HEAD * this.size;
    const o: Vec3 = [x + this.centre[0] - far * dx, y + this.centre[1] - far * dy, z + this.centre[2] - far * dz];
    return this.pieceQuery.closest(o[0], o[1], o[2], dx, dy, dz, 0, Infinity) ? this.pieceQuery.t - far : Infinity;
  }

  /** The least of all clearances at a tilt, mm: negative where it stands in something. */
  clearance(turn: Mat4, all = false): number {
    const m = about(this.centre, turn);
    const back = inverseTurn(turn);
    let least = Infinity;
    const [n, k] = all ? [this.own.side.length, this.under.side.length] : [this.mine.length, this.theirs.length];
    for (let i = 0; i < n; i++) least = Math.min(least, this.below(m, all ? i : this.mine[i]));
    for (let i = 0; i < k; i++) least = Math.min(least, this.above(back, all ? i : this.theirs[i]));
    for (const i of this.mySides) {
      const s = this.own.sides;
      const ends = [
        ...transformPoint(m, [s[6 * i], s[6 * i + 1], s[6 * i + 2]]),
        ...transformPoint(m, [s[6 * i + 3], s[6 * i + 4], s[6 * i + 5]]),
      ];
      for (const j of this.theirSides) {
        const far = acrossSides(ends, 0, this.under.sides, 6 * j);
        // What passes above it is not under it.
        if (far > -HEAD * this.size && far < least) least = far;
      }
    }
    return least;
  }

  /** The last of the way, by exact distances: each step is as far as nothing can be met. */
  land(turn: Mat4): { lift: number; gap: number } {
    let lift = -this.clearance(turn, true);
    if (!Number.isFinite(lift)) lift = 0;
    const placed = transform(this.piece, multiply(translation([0, lift, 0]), about(this.centre, turn)));
    const lowest = boundsOf(placed).min[1];
    if (!this.groundTree) return { lift: lift + this.floor - lowest, gap: 0 };
    const tree = boxTree(placed);
    // A hair above, and down again.
    let above = 1e-3 * this.size;
    let gap = Infinity;
    for (let i = 0; i < 400; i++) {
      const near = nearest(this.groundTree, tree, Infinity, [0, above, 0]);
      gap = Math.min(near?.distance ?? Infinity, lowest + above - this.floor);
      if (i === 0 && gap <= CONTACT) {
        // Something beside it is nearer than that: it is let down from higher up.
        above += 0.05 * this.size;
        continue;
      }
      if (gap <= CONTACT) break;
      above -= gap - CONTACT / 2;
    }
    return { lift: lift + above, gap };
  }

  /** Places where the piece touches what is under it where it has come to rest: corners on the floor, and where surfaces meet. */
  contacts(by: Mat4): Vec3[] {
    const placed = transform(this.piece, by);
    const p = placed.positions;
    const out: Vec3[] = [];
    for (let v = 0; v < vertexCount(placed); v++)
      if (p[3 * v + 1] - this.floor <= TOUCHES) out.push([p[3 * v], p[3 * v + 1], p[3 * v + 2]]);
    if (this.groundTree) for (const { onA } of nearPlaces(this.groundTree, boxTree(placed), TOUCHES, MOST)) out.push(onA);
    return out;
  }
}
/** Rays down begin this many sizes of the piece above its places: it may stand a little in something. */
const HEAD = 0.05;

const inverseTurn = (m: Mat4): Mat4 => [m[0], m[4], m[8], 0, m[1], m[5], m[9], 0, m[2], m[6], m[10], 0, 0, 0, 0, 1];

interface Places {
  /** Corners, and places along long sides: 3 numbers each. */
  at: Float64Array;
  /** The side a place lies on, −1 for corners. */
  side: Int32Array;
  /** Ends of those sides: 6 numbers each. */
  sides: Float64Array;
}

function placesOf(mesh: PolyMesh): Places {
  const { min, max } = boundsOf(mesh);
  const long = Math.hypot(...[0, 1, 2].map((k) => max[k] - min[k])) / (2 * ON_SIDE);
  const out: number[] = [];
  const side: number[] = [];
  const sides: number[] = [];
  const seen = new Set<string>();
  const p = mesh.positions;
  for (let v = 0; v < vertexCount(mesh); v++) {
    out.push(p[3 * v], p[3 * v + 1], p[3 * v + 2]);
    side.push(-1);
  }
  for (let f = 0; f + 1 < mesh.faceStart.length; f++)
    for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
      const [v, w] = [mesh.faceVert[c], mesh.faceVert[c + 1 < mesh.faceStart[f + 1] ? c + 1 : mesh.faceStart[f]]];
      const far = Math.hypot(...[0, 1, 2].map((k) => p[3 * v + k] - p[3 * w + k]));
      const key = v < w ? `${v} ${w}` : `${w} ${v}`;
      if (far < long || seen.has(key)) continue;
      seen.add(key);
      const n = Math.min(ON_SIDE, Math.floor(far / long)) + 1;
      for (let i = 1; i < n; i++) {
        for (let k = 0; k < 3; k++) out.push(p[3 * v + k] + ((p[3 * w + k] - p[3 * v + k]) * i) / n);
        side.push(sides.length / 6);
      }
      sides.push(p[3 * v], p[3 * v + 1], p[3 * v + 2], p[3 * w], p[3 * w + 1], p[3 * w + 2]);
    }
  return { at: Float64Array.from(out), side: Int32Array.from(side), sides: Float64Array.from(sides) };
}

/** How far one side is above another where they cross as seen from above; Infinity where they don't. */
function acrossSides(a: ArrayLike<number>, i: number, b: ArrayLike<number>, j: number): number {
  const [dx, dz] = [a[i + 3] - a[i], a[i + 5] - a[i + 2]];
  const [ex, ez] = [b[j + 3] - b[j], b[j + 5] - b[j + 2]];
  const det = dx * ez - dz * ex;
  if (Math.abs(det) < 1e-12 * (Math.abs(dx) + Math.abs(dz)) * (Math.abs(ex) + Math.abs(ez))) return Infinity;
  const [x, z] = [b[j] - a[i], b[j + 2] - a[i + 2]];
  const [s, t] = [(x * ez - z * ex) / det, (x * dz - z * dx) / det];
  if (s < 0 || s > 1 || t < 0 || t > 1) return Infinity;
  return a[i + 1] + s * (a[i + 4] - a[i + 1]) - (b[j + 1] + t * (b[j + 4] - b[j + 1]));
}

/** Goes down from a tilt to the nearest one at which the centre lies lowest: eight ways to tilt, steps that grow and halve. */
function lowest(drop: Drop, start: Mat4): { turn: Mat4 } {
  let turn = start;
  // The centre stays where it is while the piece is turned about it: what it can be let down by is what it gains.
  let best = drop.clearance(turn);
  let step = FIRST;
  let way = 0;
  for (let i = 0; i < STEPS && step > LAST; i++) {
    let found = false;
    for (let k = 0; k < 8; k++) {
      const a = ((way + k) * Math.PI) / 4;
      const tried = multiply(rotation([Math.cos(a), 0, Math.sin(a)], step), turn);
      const gain = drop.clearance(tried);
      if (gain > best + 1e-10 * drop.size) {
        [turn, best, way, found] = [tried, gain, way + k, true];
        break;
      }
    }
    step = found ? Math.min(step * 1.6, 0.06) : step / 2;
  }
  return { turn };
}

/** The tilt at which a piece on some places tips over the nearest side of them, degrees; 0 where its centre lies beside them. */
function tipping(contacts: readonly Vec3[], centre: Vec3): number {
  if (contacts.length < 3) return 0;
  const hull = convexHull(contacts.map((c): [number, number] => [c[0], c[2]]));
  if (hull.length < 3) return 0;
  let margin = Infinity;
  for (const [i, a] of hull.entries()) {
    const b = hull[(i + 1) % hull.length];
    const [dx, dz] = [b[0] - a[0], b[1] - a[1]];
    margin = Math.min(margin, (dx * (centre[2] - a[1]) - dz * (centre[0] - a[0])) / Math.max(Math.hypot(dx, dz), 1e-12));
  }
  const height = centre[1] - Math.max(...contacts.map((c) => c[1]));
  return margin <= 0 ? 0 : (Math.atan2(margin, Math.max(height, 1e-9)) * 180) / Math.PI;
}
