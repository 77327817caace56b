import type { Vec3 } from '../../maths/vec3';
import type { Edges } from '../connectivity';
import type { PolyMesh } from '../polymesh';

/** Where the outline of a face leaves its old corner: a new vertex that moves away from the old one with the size. */
export interface Slid {
  vertex: number;
  /** mm per unit of size. */
  rate: Vec3;
}

const at = (mesh: PolyMesh, v: number): Vec3 => [mesh.positions[3 * v], mesh.positions[3 * v + 1], mesh.positions[3 * v + 2]];

/** The largest size before an edge of a trimmed face has no length left, or a corner that turns inward meets an edge across the face. */
export function roomFor(mesh: PolyMesh, edges: Edges, outline: ReadonlyMap<number, Slid[]>): { most: number; vertex: number } {
  let most = Infinity;
  let vertex = -1;
  const faces = new Set<number>();
  for (const c of outline.keys()) faces.add(edges.faceOf[c]);
  const still: Vec3 = [0, 0, 0];
  for (const f of faces) {
    const [from, to] = [mesh.faceStart[f], mesh.faceStart[f + 1]];
    for (let c = from; c < to; c++) {
      const d = edges.next[c];
      const [p, q] = [at(mesh, mesh.faceVert[c]), at(mesh, mesh.faceVert[d])];
      // The edge leaves corner c at the last point of its outline and reaches corner d at the first of its.
      const leaving = outline.get(c)?.at(-1)?.rate ?? still;
      const reaching = outline.get(d)?.[0]?.rate ?? still;
      const way: Vec3 = [q[0] - p[0], q[1] - p[1], q[2] - p[2]];
      const long = Math.hypot(...way);
      let closing = 0;
      for (let k = 0; k < 3; k++) closing += ((leaving[k] - reaching[k]) * way[k]) / (long || 1);
      if (closing > 1e-12 && long / closing < most) {
        most = long / closing;
        vertex = mesh.faceVert[c];
      }
    }
    const split = splitRoom(mesh, edges, f, outline);
    if (split.most < most) [most, vertex] = [split.most, split.vertex];
  }
  return { most, vertex };
}

/** Corners of a face that turn inward run into the edges across it (the split events of a straight skeleton). */
function splitRoom(mesh: PolyMesh, edges: Edges, f: number, outline: ReadonlyMap<number, Slid[]>): { most: number; vertex: number } {
  const [from, to] = [mesh.faceStart[f], mesh.faceStart[f + 1]];
  const none = { most: Infinity, vertex: -1 };
  if (to - from < 5 || to - from > 400) return none;
  const n = faceNormal(mesh, from, to);
  let best = none;
  for (let c = from; c < to; c++) {
    const rate = outline.get(c)?.[0]?.rate;
    if (!rate) continue;
    const p = at(mesh, mesh.faceVert[c]);
    const before = at(mesh, mesh.faceVert[c > from ? c - 1 : to - 1]);
    const after = at(mesh, mesh.faceVert[edges.next[c]]);
    if (turn(before, p, after, n) >= 0) continue;
    for (let e = from; e < to; e++) {
      const d = edges.next[e];
      if (e === c || d === c) continue;
      const [q, r] = [at(mesh, mesh.faceVert[e]), at(mesh, mesh.faceVert[d])];
      const way: Vec3 = [r[0] - q[0], r[1] - q[1], r[2] - q[2]];
      const long = Math.hypot(...way) || 1;
      // Inward across the edge.
      const side: Vec3 = [
        (n[1] * way[2] - n[2] * way[1]) / long,
        (n[2] * way[0] - n[0] * way[2]) / long,
        (n[0] * way[1] - n[1] * way[0]) / long,
      ];
      const coming = outline.get(e)?.at(-1)?.rate ?? ([0, 0, 0] as Vec3);
      const across = (a: Vec3) => a[0] * side[0] + a[1] * side[1] + a[2] * side[2];
      const gap = across([p[0] - q[0], p[1] - q[1], p[2] - q[2]]);
      const speed = across(coming) - across(rate);
      if (gap <= 0 || speed <= 1e-12 || gap / speed >= best.most) continue;
      const t = gap / speed;
      let place = 0;
      for (let k = 0; k < 3; k++) place += ((p[k] + t * rate[k] - q[k]) * way[k]) / (long * long);
      if (place > -0.05 && place < 1.05) best = { most: t, vertex: mesh.faceVert[c] };
    }
  }
  return best;
}

function faceNormal(mesh: PolyMesh, from: number, to: number): Vec3 {
  const n = [0, 0, 0];
  const o = at(mesh, mesh.faceVert[from]);
  for (let c = from + 1; c + 1 < to; c++) {
    const [a, b] = [at(mesh, mesh.faceVert[c]), at(mesh, mesh.faceVert[c + 1])];
    const [u, v] = [
      [a[0] - o[0], a[1] - o[1], a[2] - o[2]],
      [b[0] - o[0], b[1] - o[1], b[2] - o[2]],
    ];
    n[0] += u[1] * v[2] - u[2] * v[1];
    n[1] += u[2] * v[0] - u[0] * v[2];
    n[2] += u[0] * v[1] - u[1] * v[0];
  }
  const l = Math.hypot(...n) || 1;
  return [n[0] / l, n[1] / l, n[2] / l];
}
function turn(a: Vec3, b: Vec3, c: Vec3, n: Vec3): number {
  const [u, v] = [
    [b[0] - a[0], b[1] - a[1], b[2] - a[2]],
    [c[0] - b[0], c[1] - b[1], c[2] - b[2]],
  ];
  return (u[1] * v[2] - u[2] * v[1]) * n[0] + (u[2] * v[0] - u[0] * v[2]) * n[1] + (u[0] * v[1] - u[1] * v[0]) * n[2];
}

/** Halvings that find how far outlines can go before one crosses itself. */
const HALVINGS = 14;

/**
 * The largest size up to a given one at which no trimmed face crosses itself: corners that slide along edges that stay can meet
 * across a face before any edge is used up.
 */
export function soundUpTo(mesh: PolyMesh, edges: Edges, outline: ReadonlyMap<number, Slid[]>, size: number): number {
  const faces = new Set<number>();
  for (const c of outline.keys()) faces.add(edges.faceOf[c]);
  let most = size;
  for (const f of faces) {
    if (isSimple(mesh, f, outline, most)) continue;
    let [low, high] = [0, most];
    for (let i = 0; i < HALVINGS; i++) {
      const middle = (low + high) / 2;
      if (isSimple(mesh, f, outline, middle)) low = middle;
      else high = middle;
    }
    most = low;
  }
  return most;
}

function isSimple(mesh: PolyMesh, f: number, outline: ReadonlyMap<number, Slid[]>, size: number): boolean {
  const [from, to] = [mesh.faceStart[f], mesh.faceStart[f + 1]];
  const n = faceNormal(mesh, from, to);
  const k = [0, 1, 2].reduce((m, i) => (Math.abs(n[i]) > Math.abs(n[m]) ? i : m), 0);
  const [i, j] = n[k] >= 0 ? [(k + 1) % 3, (k + 2) % 3] : [(k + 2) % 3, (k + 1) % 3];
  const ring: [number, number][] = [];
  for (let c = from; c < to; c++) {
    const p = at(mesh, mesh.faceVert[c]);
    for (const { rate } of outline.get(c) ?? [{ rate: [0, 0, 0] as Vec3 }]) ring.push([p[i] + size * rate[i], p[j] + size * rate[j]]);
  }
  const m = ring.length;
  const side = (a: readonly number[], b: readonly number[], c: readonly number[]) =>
    (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);
  let area = 0;
  for (let a = 0; a < m; a++) area += ring[a][0] * ring[(a + 1) % m][1] - ring[a][1] * ring[(a + 1) % m][0];
  if (area <= 0) return false;
  if (m > 60) return true;
  for (let a = 0; a < m; a++)
    for (let b = a + 2; b < m; b++) {
      if (a === 0 && b === m - 1) continue;
      const [p, q, r, s] = [ring[a], ring[a + 1], ring[b], ring[(b + 1) % m]];
      if (side(p, q, r) * side(p, q, s) < 0 && side(r, s, p) * side(r, s, q) < 0) return false;
    }
  return true;
}
