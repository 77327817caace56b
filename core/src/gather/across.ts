import { attribute, type PolyMesh, triangleCount } from '../mesh/polymesh';
import { facingOf, soupOf } from '../mesh/soup';
import { RayQuery } from '../rays/query';
import { type Allocate, buildTree, PRIVATE, type RayTree } from '../rays/tree';

/** Triangles of one patch, by where they lie in its coordinates: a grid of cells, each with the triangles that touch it. */
interface PatchGrid {
  /** u0, v0 and cells per unit of u and v. */
  origin: [number, number];
  cells: [number, number];
  side: number;
  start: Int32Array;
  triangles: Int32Array;
}

/** How places of one surface are found on another: flat arrays only, so that workers can share it. */
export interface AcrossData {
  /** The same corners: every triangle is itself. */
  kind: 'same' | 'patches' | 'nearest';
  /** Triangle of the target → patch of the source, −1 where it has none there. */
  patchOf: Int32Array;
  /** Patch coordinates of both, 6 per triangle. */
  targetUv: Float32Array;
  sourceUv: Float32Array;
  grids: (PatchGrid | null)[];
  /** Corners of the target, 9 per triangle, and of the source’s triangles their directions, 3 each, unit. */
  target: Float32Array;
  facing: Float32Array;
  tree: RayTree | null;
  /** How far off the source may lie, mm. */
  reachMm: number;
}

/** How far off the same surface may lie after its counts or level changed, as a share of its size. */
const REACH = 0.05;

/** Whether two meshes have the very same corners and triangles, wherever their layouts lie. */
function isSame(a: PolyMesh, b: PolyMesh): boolean {
  const alike = (x: ArrayLike<number>, y: ArrayLike<number>) => {
    if (x === y) return true;
    if (x.length !== y.length) return false;
    for (let i = 0; i < x.length; i++) if (x[i] !== y[i]) return false;
    return true;
  };
  return alike(a.triangles, b.triangles) && alike(a.faceVert, b.faceVert) && alike(a.positions, b.positions);
}

/**
 * How places on `target` are found on `source`: each is itself where both are one mesh; by patch and its coordinates where both were made
 * by the same steps with other counts; else at the nearest point that faces the same way, as on a level or a newer file.
 */
export function acrossFrom(source: PolyMesh, target: PolyMesh, allocate: Allocate = PRIVATE): AcrossData {
  const none = new Float32Array(0);
  const bare = {
    patchOf: new Int32Array(0),
    targetUv: none,
    sourceUv: none,
    grids: [],
    target: none,
    facing: none,
    tree: null,
    reachMm: 0,
  };
  if (isSame(source, target)) return { kind: 'same', ...bare };
  const corners = Float32Array.from(soupOf(target));
  const own = soupOf(source);
  let [least, most] = [Infinity, -Infinity];
  for (const x of own) {
    least = Math.min(least, x);
    most = Math.max(most, x);
  }
  const near = {
    ...bare,
    kind: 'nearest' as const,
    target: corners,
    facing: facingOf(own).facing,
    tree: buildTree(own, allocate),
    reachMm: REACH * (most - least),
  };
  const [theirs, ours] = [patchCoordinates(source), patchCoordinates(target)];
  if (!theirs || !ours) return near;
  const numberOf = new Map(source.patches.map((name, i) => [name, i]));
  const grids = gridsOf(source, theirs);
  return {
    ...near,
    kind: 'patches',
    patchOf: Int32Array.from(ours.patch, (p) => {
      const at = numberOf.get(target.patches[p]);
      return at !== undefined && grids[at] ? at : -1;
    }),
    targetUv: ours.uv,
    sourceUv: theirs.uv,
    grids,
  };
}

/** Of every triangle its patch, and its corners’ coordinates there; null where the mesh has none. */
function patchCoordinates(mesh: PolyMesh): { patch: Int32Array; uv: Float32Array } | null {
  const [patch, uv] = [attribute(mesh, 'patch', 'face')?.data, attribute(mesh, 'patchUv', 'corner')?.data];
  if (!patch || !uv || mesh.patches.length === 0) return null;
  const out = new Float32Array(2 * mesh.triangles.length);
  for (let i = 0; i < mesh.triangles.length; i++) {
    out[2 * i] = uv[2 * mesh.triangles[i]];
    out[2 * i + 1] = uv[2 * mesh.triangles[i] + 1];
  }
  return { patch: Int32Array.from(mesh.triangleFace, (f) => patch[f]), uv: out };
}

function gridsOf(mesh: PolyMesh, { patch, uv }: { patch: Int32Array; uv: Float32Array }): (PatchGrid | null)[] {
  const of: number[][] = mesh.patches.map(() => []);
  for (let t = 0; t < triangleCount(mesh); t++) of[patch[t]]?.push(t);
  return of.map((list) => {
    if (list.length === 0) return null;
    const [u, v] = [0, 1].map((k) => {
      let [low, high] = [Infinity, -Infinity];
      for (const t of list)
        for (let i = 0; i < 3; i++) [low, high] = [Math.min(low, uv[6 * t + 2 * i + k]), Math.max(high, uv[6 * t + 2 * i + k])];
      return { low, extent: high - low };
    });
    // A patch without an extent, or numbered faces of an import: nothing to be found by.
    if (!(u.extent > 1e-9) || !(v.extent > 1e-9)) return null;
    const side = Math.max(1, Math.min(256, Math.ceil(Math.sqrt(list.length / 2))));
    const cells: number[][] = Array.from({ length: side * side }, () => []);
    const cellOf = (x: number, { low, extent }: { low: number; extent: number }) =>
      Math.min(side - 1, Math.max(0, Math.floor(((x - low) / extent) * side)));
    for (const t of list) {
      const xs = [0, 1, 2].map((i) => cellOf(uv[6 * t + 2 * i], u));
      const ys = [0, 1, 2].map((i) => cellOf(uv[6 * t + 2 * i + 1], v));
      for (let y = Math.min(...ys); y <= Math.max(...ys); y++)
        for (let x = Math.min(...xs); x <= Math.max(...xs); x++) cells[y * side + x].push(t);
    }
    const start = new Int32Array(side * side + 1);
    for (const [i, c] of cells.entries()) start[i + 1] = start[i] + c.length;
    return {
      origin: [u.low, v.low],
      cells: [side / u.extent, side / v.extent],
      side,
      start,
      triangles: Int32Array.from(cells.flat()),
    };
  });
}

/** Finds places of the target on the source, one at a time; the answer stands in its fields. */
export class Across {
  triangle = -1;
  w0 = 0;
  w1 = 0;
  w2 = 0;
  private readonly query: RayQuery | null;

  constructor(private readonly data: AcrossData) {
    this.query = data.tree ? new RayQuery(data.tree) : null;
  }

  /** @returns false where the source has no such place */
  find(t: number, w0: number, w1: number, w2: number): boolean {
    const { kind } = this.data;
    if (kind === 'same') {
      this.triangle = t;
      this.w0 = w0;
      this.w1 = w1;
      this.w2 = w2;
      return true;
    }
    return (kind === 'patches' && this.inPatch(t, w0, w1, w2)) || this.near(t, w0, w1, w2);
  }

  private inPatch(t: number, w0: number, w1: number, w2: number): boolean {
    const { patchOf, targetUv: a, sourceUv: b, grids } = this.data;
    const grid = patchOf[t] < 0 ? null : grids[patchOf[t]];
    if (!grid) return false;
    const u = w0 * a[6 * t] + w1 * a[6 * t + 2] + w2 * a[6 * t + 4];
    const v = w0 * a[6 * t + 1] + w1 * a[6 * t + 3] + w2 * a[6 * t + 5];
    const { side, origin, cells, start, triangles } = grid;
    const x = Math.min(side - 1, Math.max(0, Math.floor((u - origin[0]) * cells[0])));
    const y = Math.min(side - 1, Math.max(0, Math.floor((v - origin[1]) * cells[1])));
    let best = -1e-4;
    let found = false;
    for (let i = start[y * side + x]; i < start[y * side + x + 1]; i++) {
      const s = triangles[i];
      const [ax, ay, bx, by, cx, cy] = [b[6 * s], b[6 * s + 1], b[6 * s + 2], b[6 * s + 3], b[6 * s + 4], b[6 * s + 5]];
      const d = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay);
      if (Math.abs(d) < 1e-14) continue;
      const p = ((u - ax) * (cy - ay) - (cx - ax) * (v - ay)) / d;
      const q = ((bx - ax) * (v - ay) - (u - ax) * (by - ay)) / d;
      const least = Math.min(1 - p - q, p, q);
      if (least <= best) continue;
      best = least;
      found = true;
      this.triangle = s;
      this.w0 = 1 - p - q;
      this.w1 = p;
      this.w2 = q;
      if (least >= 0) break;
    }
    return found;
  }

  /** At the nearest point; where that faces away (the other side of a sheet), straight out or in from the place. */
  private near(t: number, w0: number, w1: number, w2: number): boolean {
    const { target: p, facing, reachMm } = this.data;
    const query = this.query as RayQuery;
    const o = 9 * t;
    const at = [0, 1, 2].map((k) => w0 * p[o + k] + w1 * p[o + 3 + k] + w2 * p[o + 6 + k]);
    const [ax, ay, az] = [p[o + 3] - p[o], p[o + 4] - p[o + 1], p[o + 5] - p[o + 2]];
    const [bx, by, bz] = [p[o + 6] - p[o], p[o + 7] - p[o + 1], p[o + 8] - p[o + 2]];
    const n = [ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx];
    const l = Math.hypot(n[0], n[1], n[2]) || 1;
    const faces = (s: number) => (n[0] * facing[3 * s] + n[1] * facing[3 * s + 1] + n[2] * facing[3 * s + 2]) / l > 0.1;
    if (query.nearest(at[0], at[1], at[2], reachMm) && faces(query.triangle)) return this.take();
    let best = Infinity;
    for (const sign of [1, -1]) {
      const d = n.map((x) => (sign * x) / l);
      const hit = query.all(at[0], at[1], at[2], d[0], d[1], d[2], -1e-6, reachMm).find((h) => faces(h.triangle));
      if (!hit || hit.t >= best) continue;
      best = hit.t;
      query.nearest(at[0] + hit.t * d[0], at[1] + hit.t * d[1], at[2] + hit.t * d[2], 1e-3 * reachMm + 1e-6);
      this.take();
    }
    return best < Infinity;
  }

  private take(): boolean {
    const { triangle, u, v } = this.query as RayQuery;
    this.triangle = triangle;
    this.w0 = 1 - u - v;
    this.w1 = u;
    this.w2 = v;
    return triangle >= 0;
  }
}
