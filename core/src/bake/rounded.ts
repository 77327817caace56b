import { edgesOf, edgeValence, Groups } from '../mesh/connectivity';
import { cornerNormals } from '../mesh/normals';
import type { PolyMesh } from '../mesh/polymesh';
import type { Allocate } from '../rays/tree';
import { PRIVATE } from '../rays/tree';
import { shadedHard } from '../uv/seams/measure';

/**
 * The hard edges of a mesh, ready to be asked for the direction of the surface as if each were rounded by a ball of one radius. Flat
 * arrays only, so that workers share it.
 */
export interface RoundedEdges {
  /** mm */
  radius: number;
  /** Of each triangle: the faces it can be reached from without going over a hard edge. */
  region: Int32Array;
  /** {@link SIDE} numbers for each side of each hard edge. */
  sides: Float64Array;
  /** The region each side belongs to. */
  sideRegion: Int32Array;
  /** Cells of the grid over which sides are found: least corner and side of a cell, mm, and how many along x, y, z. */
  grid: { origin: Float64Array; cell: number; counts: Int32Array };
  /** Per cell where its sides begin in `items`; one more at the end. */
  start: Uint32Array;
  items: Uint32Array;
}

/** Two ends, own normals there, the other face’s there, 1 for an edge that stands out and −1 for one that goes in, 1 for each end whose outline turns back there. */
const SIDE = 21;
/** Knife edges would be rounded from far away: no farther than so many radii. */
const FARTHEST = 4;
/** Cells at most along the longest side of a mesh. */
const MOST_CELLS = 64;

/**
 * Finds the hard edges of a mesh and lays them out over a grid.
 *
 * @param radius of the edges, mm; more than 0
 */
export function roundedEdges(mesh: PolyMesh, radius: number, allocate: Allocate = PRIVATE): RoundedEdges {
  const edges = edgesOf(mesh);
  const hard = shadedHard(mesh, edges);
  const normals = cornerNormals(mesh);
  const faces = new Groups(mesh.faceStart.length - 1);
  for (let e = 0; e < edges.count; e++) {
    if (hard[e] || edgeValence(edges, e) !== 2) continue;
    faces.join(edges.faceOf[edges.corners[edges.start[e]]], edges.faceOf[edges.corners[edges.start[e] + 1]]);
  }
  const sides: number[] = [];
  const regions: number[] = [];
  /** Sides of a region by the vertices at their ends. */
  const atEnd = new Map<string, number[]>();
  for (let e = 0; e < edges.count; e++) {
    if (!hard[e] || edgeValence(edges, e) !== 2) continue;
    const [c, d] = [edges.corners[edges.start[e]], edges.corners[edges.start[e] + 1]];
    if (mesh.faceVert[c] !== mesh.faceVert[edges.next[d]]) continue;
    for (const [mine, other] of [
      [c, d],
      [d, c],
    ]) {
      const [a, b] = [mine, edges.next[mine]];
      const ends = [mesh.faceVert[a], mesh.faceVert[b]];
      const region = faces.find(edges.faceOf[mine]);
      const turn = foldOf(mesh, edges.faceOf[mine], edges.faceOf[other], normals, a, other);
      if (turn === 0) continue;
      const at = regions.length;
      const three = (from: ArrayLike<number>, i: number) => [from[3 * i], from[3 * i + 1], from[3 * i + 2]];
      sides.push(
        ...three(mesh.positions, ends[0]),
        ...three(mesh.positions, ends[1]),
        ...three(normals, a),
        ...three(normals, b),
        ...three(normals, edges.next[other]),
        ...three(normals, other),
        turn,
        0,
        0,
      );
      regions.push(region);
      for (const [k, v] of ends.entries()) {
        const key = `${region}/${v}`;
        const list = atEnd.get(key) ?? [];
        atEnd.set(key, list);
        list.push(2 * at + k);
      }
    }
  }
  markTurns(sides, atEnd);
  return laidOver(mesh, radius, Float64Array.from(sides), Int32Array.from(regions), (f) => faces.find(f), allocate);
}

/** 1 where two faces meet in an edge that stands out, −1 in one that goes in, 0 where they lie in one plane. */
function foldOf(mesh: PolyMesh, mine: number, other: number, normals: Float64Array, corner: number, across: number): number {
  const n = [0, 1, 2].map((k) => normals[3 * corner + k]);
  const m = [0, 1, 2].map((k) => normals[3 * across + k]);
  if (n[0] * m[0] + n[1] * m[1] + n[2] * m[2] > 0.9999) return 0;
  const centre = (f: number, k: number) => {
    let sum = 0;
    for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) sum += mesh.positions[3 * mesh.faceVert[c] + k];
    return sum / (mesh.faceStart[f + 1] - mesh.faceStart[f]);
  };
  // Seen from the edge, the other face goes below this one’s plane where the edge stands out, this one below the other’s as well.
  let lies = 0;
  for (let k = 0; k < 3; k++) {
    const e = mesh.positions[3 * mesh.faceVert[corner] + k];
    lies += n[k] * (centre(other, k) - e) + m[k] * (centre(mine, k) - e);
  }
  return lies <= 0 ? 1 : -1;
}

/** Marks the ends at which the outline of a region turns back on itself: there the ball runs round the corner’s point. */
function markTurns(sides: number[], atEnd: ReadonlyMap<string, number[]>): void {
  const across = [0, 0, 0];
  for (const list of atEnd.values()) {
    if (list.length !== 2) continue;
    for (const [me, it] of [list, [list[1], list[0]]]) {
      const [i, j] = [SIDE * (me >> 1), SIDE * (it >> 1)];
      acrossEdge(sides, i, me & 1, across);
      const v = i + 3 * (me & 1);
      const far = j + 3 * (1 - (it & 1));
      let [out, length] = [0, 0];
      for (let k = 0; k < 3; k++) {
        const d = sides[far + k] - sides[v + k];
        out += across[k] * sides[i + 18] * d;
        length += d * d;
      }
      if (out > 1e-4 * Math.sqrt(length)) sides[i + 19 + (me & 1)] = 1;
    }
  }
}

/** The direction that the surface turns to over an edge, at one of its ends: in its own plane, unit. */
function acrossEdge(sides: ArrayLike<number>, i: number, end: number, out: number[]): void {
  const [n, m] = [i + 6 + 3 * end, i + 12 + 3 * end];
  const dot = sides[n] * sides[m] + sides[n + 1] * sides[m + 1] + sides[n + 2] * sides[m + 2];
  for (let k = 0; k < 3; k++) out[k] = sides[m + k] - dot * sides[n + k];
  const l = Math.hypot(out[0], out[1], out[2]) || 1;
  for (let k = 0; k < 3; k++) out[k] /= l;
}

function laidOver(
  mesh: PolyMesh,
  radius: number,
  sides: Float64Array,
  regions: Int32Array,
  regionOf: (face: number) => number,
  allocate: Allocate,
): RoundedEdges {
  const min = [Infinity, Infinity, Infinity];
  const max = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i < mesh.positions.length; i++) {
    min[i % 3] = Math.min(min[i % 3], mesh.positions[i]);
    max[i % 3] = Math.max(max[i % 3], mesh.positions[i]);
  }
  const reach = FARTHEST * radius;
  const longest = Math.max(...max.map((x, k) => x - min[k]), 1e-6);
  const cell = Math.max(longest / MOST_CELLS, radius);
  const counts = Int32Array.from(min, (x, k) => Math.max(1, Math.ceil((max[k] - x) / cell + 1e-9)));
  const lists: number[][] = Array.from({ length: counts[0] * counts[1] * counts[2] }, () => []);
  const span = (a: number, b: number, k: number): [number, number] => [
    Math.max(0, Math.floor((Math.min(a, b) - reach - min[k]) / cell)),
    Math.min(counts[k] - 1, Math.floor((Math.max(a, b) + reach - min[k]) / cell)),
  ];
  for (let s = 0; s < regions.length; s++) {
    const o = SIDE * s;
    const [x, y, z] = [0, 1, 2].map((k) => span(sides[o + k], sides[o + 3 + k], k));
    const near = Math.min(reach, farthest(sides, o, radius)) + cell;
    for (let i = x[0]; i <= x[1]; i++)
      for (let j = y[0]; j <= y[1]; j++)
        for (let l = z[0]; l <= z[1]; l++) {
          const p = [i, j, l].map((v, k) => min[k] + (v + 0.5) * cell);
          if (distance(sides, o, p) <= near) lists[(l * counts[1] + j) * counts[0] + i].push(s);
        }
  }
  const start = new Uint32Array(allocate(4 * (lists.length + 1)));
  for (const [i, list] of lists.entries()) start[i + 1] = start[i] + list.length;
  const items = new Uint32Array(allocate(4 * start[lists.length]));
  for (const [i, list] of lists.entries()) items.set(list, start[i]);
  const region = new Int32Array(allocate(4 * mesh.triangleFace.length));
  for (let t = 0; t < region.length; t++) region[t] = regionOf(mesh.triangleFace[t]);
  const held = <T extends Float64Array | Int32Array>(a: T): T => {
    const out = new (a.constructor as new (b: ArrayBufferLike) => T)(allocate(a.byteLength));
    out.set(a);
    return out;
  };
  return {
    radius,
    region,
    sides: held(sides),
    sideRegion: held(regions),
    grid: { origin: held(Float64Array.from(min)), cell, counts: held(counts) },
    start,
    items,
  };
}

/** How far from an edge its rounding begins at most, mm. */
function farthest(sides: Float64Array, o: number, radius: number): number {
  let most = 0;
  for (const end of [0, 3]) {
    const [n, m] = [o + 6 + end, o + 12 + end];
    most = Math.max(most, tangent(sides[n] * sides[m] + sides[n + 1] * sides[m + 1] + sides[n + 2] * sides[m + 2]));
  }
  return radius * most;
}

/** tan(φ/2) of the angle φ between two normals, from its cosine; at most {@link FARTHEST}. */
const tangent = (cosine: number): number => Math.min(FARTHEST, Math.sqrt(Math.max(0, 1 - cosine) / Math.max(1e-9, 1 + cosine)));

function distance(sides: Float64Array, o: number, p: readonly number[]): number {
  let [dot, length] = [0, 0];
  for (let k = 0; k < 3; k++) {
    const d = sides[o + 3 + k] - sides[o + k];
    dot += (p[k] - sides[o + k]) * d;
    length += d * d;
  }
  const s = Math.min(1, Math.max(0, dot / (length || 1)));
  let sum = 0;
  for (let k = 0; k < 3; k++) sum += (p[k] - sides[o + k] - s * (sides[o + 3 + k] - sides[o + k])) ** 2;
  return Math.sqrt(sum);
}

/** Edges asked about at one place at most. */
const MOST_NEAR = 16;
/** Rounds of the projection; two edges at a right angle need one. */
const ROUNDS = 24;

/**
 * Asks {@link RoundedEdges}; one object per thread, the answer stands in its fields.
 *
 * A ball of the radius that rolls along the inside of the surface (along its outside where edges go in) touches a face only where its
 * centre can come to lie below that place; elsewhere the surface is the ball’s own. So the direction at a place is that from the nearest
 * point the centre can have: in the plane a radius below the face, inside the outline that is drawn in by r · tan(φ/2) from every edge over
 * which the surface turns by φ. Across one edge, x from it, that leans by atan((r tan(φ/2) − x)/r): half of φ at the edge itself. Where two
 * edges stand closer than both their roundings, the radius is as much smaller there.
 */
export class Rounding {
  x = 0;
  y = 0;
  z = 0;
  private readonly across = new Float64Array(3 * MOST_NEAR);
  private readonly away = new Float64Array(MOST_NEAR);
  private readonly need = new Float64Array(MOST_NEAR);
  private readonly turn = new Float64Array(MOST_NEAR);
  private readonly force = new Float64Array(MOST_NEAR);

  constructor(private readonly of: RoundedEdges) {}

  /**
   * The direction at a place of the mesh; `x, y, z` hold it, unit.
   *
   * @param t triangle it lies on
   * @param nx the surface’s direction there without rounding, unit
   * @returns whether an edge was near enough to change it
   */
  at(t: number, px: number, py: number, pz: number, nx: number, ny: number, nz: number): boolean {
    this.x = nx;
    this.y = ny;
    this.z = nz;
    const n = this.gather(t, px, py, pz);
    if (n === 0) return false;
    const { across, away, need, turn, of } = this;
    const share = this.room(n);
    const r = of.radius * share;
    for (let i = 0; i < n; i++) need[i] = need[i] * share - away[i];
    let [x, y, z] = [r * nx, r * ny, r * nz];
    for (const sign of [1, -1]) {
      const pushed = this.push(n, sign);
      if (!pushed) continue;
      for (let i = 0; i < n; i++) {
        if (turn[i] !== sign) continue;
        const f = this.force[i];
        x += sign * f * across[3 * i];
        y += sign * f * across[3 * i + 1];
        z += sign * f * across[3 * i + 2];
      }
    }
    const l = Math.sqrt(x * x + y * y + z * z);
    if (l < 1e-12) return false;
    this.x = x / l;
    this.y = y / l;
    this.z = z / l;
    return true;
  }

  /** Collects the edges whose rounding reaches a place: which way each lies in the face, how far, and how far its rounding goes. */
  private gather(t: number, px: number, py: number, pz: number): number {
    const { grid, start, items, sides, sideRegion, region, radius } = this.of;
    const { origin, cell, counts } = grid;
    const i = Math.min(counts[0] - 1, Math.max(0, Math.floor((px - origin[0]) / cell)));
    const j = Math.min(counts[1] - 1, Math.max(0, Math.floor((py - origin[1]) / cell)));
    const k = Math.min(counts[2] - 1, Math.max(0, Math.floor((pz - origin[2]) / cell)));
    const at = (k * counts[1] + j) * counts[0] + i;
    const mine = region[t];
    let n = 0;
    for (let q = start[at]; q < start[at + 1] && n < MOST_NEAR; q++) {
      const s = items[q];
      if (sideRegion[s] !== mine) continue;
      const o = SIDE * s;
      const [ax, ay, az] = [sides[o], sides[o + 1], sides[o + 2]];
      const [ex, ey, ez] = [sides[o + 3] - ax, sides[o + 4] - ay, sides[o + 5] - az];
      const raw = ((px - ax) * ex + (py - ay) * ey + (pz - az) * ez) / (ex * ex + ey * ey + ez * ez || 1);
      const f = Math.min(1, Math.max(0, raw));
      // Normals of both faces where the edge is nearest.
      const mix = (c: number) => (1 - f) * sides[o + c] + f * sides[o + c + 3];
      let [mx, my, mz] = [mix(6), mix(7), mix(8)];
      const ml = 1 / (Math.sqrt(mx * mx + my * my + mz * mz) || 1);
      mx *= ml;
      my *= ml;
      mz *= ml;
      let [ox, oy, oz] = [mix(12), mix(13), mix(14)];
      const ol = 1 / (Math.sqrt(ox * ox + oy * oy + oz * oz) || 1);
      const dot = ol * (mx * ox + my * oy + mz * oz);
      ox = ox * ol - dot * mx;
      oy = oy * ol - dot * my;
      oz = oz * ol - dot * mz;
      const length = Math.sqrt(ox * ox + oy * oy + oz * oz);
      if (length < 1e-6) continue;
      const reach = radius * tangent(dot);
      const sign = sides[o + 18];
      // Toward the edge: with its turn where it stands out, against it where it goes in.
      let [bx, by, bz] = [(sign * ox) / length, (sign * oy) / length, (sign * oz) / length];
      const [gx, gy, gz] = [ax + f * ex - px, ay + f * ey - py, az + f * ez - pz];
      let d = bx * gx + by * gy + bz * gz;
      if (raw < -1e-6 || raw > 1 + 1e-6) {
        const past = Math.sqrt(gx * gx + gy * gy + gz * gz);
        if (past > reach) continue;
        if (sides[o + (raw < 0 ? 19 : 20)] === 1) {
          // The outline turns back here: the ball runs round its point.
          const up = gx * mx + gy * my + gz * mz;
          [bx, by, bz] = [gx - up * mx, gy - up * my, gz - up * mz];
          d = Math.sqrt(bx * bx + by * by + bz * bz);
          if (d < 1e-9) continue;
          bx /= d;
          by /= d;
          bz /= d;
        }
      }
      if (d >= reach || d < -1e-3 * radius) continue;
      this.across[3 * n] = bx;
      this.across[3 * n + 1] = by;
      this.across[3 * n + 2] = bz;
      this.away[n] = Math.max(0, d);
      this.need[n] = reach;
      this.turn[n] = sign;
      n++;
    }
    return n;
  }

  /** The share of the radius that fits between edges which face each other. */
  private room(n: number): number {
    const { across, away, need, turn } = this;
    let share = 1;
    for (let i = 0; i < n; i++)
      for (let j = 0; j < i; j++) {
        if (turn[i] !== turn[j]) continue;
        const dot = across[3 * i] * across[3 * j] + across[3 * i + 1] * across[3 * j + 1] + across[3 * i + 2] * across[3 * j + 2];
        if (dot < -0.7) share = Math.min(share, (away[i] + away[j]) / (need[i] + need[j]));
      }
    return Math.max(1e-6, share);
  }

  /** The least way into the outline drawn in from the edges of one kind: as multiples of their directions (Hildreth 1957). */
  private push(n: number, sign: number): boolean {
    const { across, need, turn, force } = this;
    let any = false;
    for (let i = 0; i < n; i++) {
      force[i] = 0;
      if (turn[i] === sign && need[i] > 0) any = true;
    }
    if (!any) return false;
    for (let round = 0; round < ROUNDS; round++) {
      let most = 0;
      for (let i = 0; i < n; i++) {
        if (turn[i] !== sign) continue;
        let done = 0;
        for (let j = 0; j < n; j++)
          if (turn[j] === sign && force[j] !== 0)
            done +=
              force[j] * (across[3 * i] * across[3 * j] + across[3 * i + 1] * across[3 * j + 1] + across[3 * i + 2] * across[3 * j + 2]);
        const step = Math.max(-force[i], need[i] - done);
        force[i] += step;
        most = Math.max(most, Math.abs(step));
      }
      if (most < 1e-6 * this.of.radius) break;
    }
    return true;
  }
}
