import { type Vec3, vec3 } from '../../maths/vec3';
import { type Edges, edgeValence, shellsOf } from '../../mesh/connectivity';
import { attribute, faceCount, type PolyMesh, triangleCount } from '../../mesh/polymesh';
import { RayQuery } from '../../rays/query';
import { buildTree } from '../../rays/tree';
import { evenDirections } from '../visibility';

/** A shell whose normals face the wrong way, with one of its faces. */
export interface InwardShell {
  shell: number;
  faces: number;
  face: number;
  /** Rays bear out what the winding says: before its faces there is itself, behind them there is room. */
  sure: boolean;
}

/** An open shell holds what lies in it when it goes round it by this much of a whole sphere: a bowl doesn't. */
const NEARLY_CLOSED = 0.9;

/**
 * Shells that face inward. A closed shell is judged by the sign of its volume against its nesting depth: the inside wall
 * of a hollow is rightly negative, also where a face of either wall is missing. An open shell is judged by the generalised winding number (Jacobson et al. 2013) on its
 * own surface: positive when it faces outward; a flat sheet says nothing and is left alone.
 */
export function inwardShells(mesh: PolyMesh, edges: Edges): { shells: InwardShell[]; ofFace: Uint32Array } {
  const { ofFace, count } = shellsOf(mesh);
  const open = new Uint8Array(count);
  const first = new Int32Array(count).fill(-1);
  const faces = new Uint32Array(count);
  for (let f = 0; f < faceCount(mesh); f++) {
    if (first[ofFace[f]] < 0) first[ofFace[f]] = f;
    faces[ofFace[f]]++;
  }
  for (let e = 0; e < edges.count; e++) if (edgeValence(edges, e) !== 2) open[ofFace[edges.faceOf[edges.corners[edges.start[e]]]]] = 1;
  const triangles: number[][] = Array.from({ length: count }, () => []);
  for (let t = 0; t < triangleCount(mesh); t++) triangles[ofFace[mesh.triangleFace[t]]].push(t);
  const boxes = triangles.map((list) => shellBox(mesh, list));

  const shells: InwardShell[] = [];
  for (let s = 0; s < count; s++) {
    // One face alone is a flat sheet, however many corners it has.
    if (faces[s] === 1) continue;
    const sign = open[s] ? openSign(mesh, triangles[s]) : Math.sign(shellVolume(mesh, triangles[s]));
    if (sign === 0) continue;
    let depth = 0;
    const p = corner(mesh, 3 * triangles[s][0]);
    for (let o = 0; o < count; o++) {
      if (o === s || !boxes[o].every(([low, high], k) => p[k] > low && p[k] < high)) continue;
      if (Math.abs(windingNumber(mesh, triangles[o], p)) > (open[o] ? NEARLY_CLOSED : 0.5)) depth++;
    }
    if (sign === (depth % 2 === 0 ? 1 : -1)) continue;
    // A closed one that looks outward inside another may be a thing that lies in there; a dish is open either way.
    const sure = open[s] ? looksAtItself(mesh, triangles[s]) && !normalsAgree(mesh, triangles[s]) : sign < 0;
    shells.push({ shell: s, faces: faces[s], face: first[s], sure });
  }
  return { shells, ofFace };
}

/** Rays are cast from so many places of an open shell, and so many from each. */
const PLACES = 40;
const DIRECTIONS = evenDirections(48);
/** Of what is before an inward face less gets away than this share of what gets away behind it. */
const SHUT_IN = 0.5;

/** Whether rays from the fronts of a shell’s faces meet the shell itself far more often than rays from their backs do. */
function looksAtItself(mesh: PolyMesh, list: readonly number[]): boolean {
  const soup = new Float64Array(9 * list.length);
  let size = 0;
  for (const [i, t] of list.entries())
    for (let j = 0; j < 3; j++) {
      const p = corner(mesh, 3 * t + j);
      soup.set(p, 9 * i + 3 * j);
      for (let k = 0; k < 3; k++) size = Math.max(size, Math.abs(p[k] - soup[k]));
    }
  const query = new RayQuery(buildTree(soup));
  const free = [0, 0];
  const step = Math.max(1, Math.floor(list.length / PLACES));
  for (let i = 0; i < list.length; i += step) {
    const o = 9 * i;
    const [u, v] = [0, 1].map((e) => [0, 1, 2].map((k) => soup[o + 3 * (e + 1) + k] - soup[o + k]));
    const n = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
    const l = Math.hypot(n[0], n[1], n[2]);
    if (l === 0) continue;
    const m = [0, 1, 2].map((k) => (soup[o + k] + soup[o + 3 + k] + soup[o + 6 + k]) / 3);
    for (let d = 0; d < DIRECTIONS.length; d += 3) {
      const cos = (DIRECTIONS[d] * n[0] + DIRECTIONS[d + 1] * n[1] + DIRECTIONS[d + 2] * n[2]) / l;
      if (Math.abs(cos) < 0.05) continue;
      if (!query.any(m[0], m[1], m[2], DIRECTIONS[d], DIRECTIONS[d + 1], DIRECTIONS[d + 2], 1e-5 * size, 1e9)) free[cos > 0 ? 0 : 1]++;
    }
  }
  return free[0] < SHUT_IN * free[1];
}

/** Whether the file’s own normals look the way its faces wind: then somebody meant them to. */
function normalsAgree(mesh: PolyMesh, list: readonly number[]): boolean {
  const own = attribute(mesh, 'normal', 'corner')?.data;
  if (!own) return false;
  let agree = 0;
  for (const t of list) {
    const [a, b, c] = [0, 1, 2].map((j) => corner(mesh, 3 * t + j));
    const [u, v] = [b, c].map((x) => x.map((y, k) => y - a[k]));
    const n = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
    const o = 3 * mesh.triangles[3 * t];
    agree += Math.sign(n[0] * own[o] + n[1] * own[o + 1] + n[2] * own[o + 2]);
  }
  return agree > 0.8 * list.length;
}

const corner = (mesh: PolyMesh, i: number): Vec3 => {
  const v = 3 * mesh.faceVert[mesh.triangles[i]];
  return [mesh.positions[v], mesh.positions[v + 1], mesh.positions[v + 2]];
};

function shellBox(mesh: PolyMesh, list: number[]): [number, number][] {
  const p = mesh.positions;
  const box = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
  for (const t of list)
    for (let j = 0; j < 3; j++) {
      const v = 3 * mesh.faceVert[mesh.triangles[3 * t + j]];
      for (let k = 0; k < 3; k++) {
        if (p[v + k] < box[k]) box[k] = p[v + k];
        if (p[v + k] > box[3 + k]) box[3 + k] = p[v + k];
      }
    }
  return [0, 1, 2].map((k) => [box[k], box[3 + k]]);
}

function shellVolume(mesh: PolyMesh, list: number[]): number {
  const p = mesh.positions;
  const at = (i: number) => 3 * mesh.faceVert[mesh.triangles[i]];
  const o = at(3 * list[0]);
  const [ox, oy, oz] = [p[o], p[o + 1], p[o + 2]];
  let six = 0;
  for (const t of list) {
    const a = at(3 * t);
    const b = at(3 * t + 1);
    const c = at(3 * t + 2);
    const ax = p[a] - ox;
    const ay = p[a + 1] - oy;
    const az = p[a + 2] - oz;
    const bx = p[b] - ox;
    const by = p[b + 1] - oy;
    const bz = p[b + 2] - oz;
    const cx = p[c] - ox;
    const cy = p[c + 1] - oy;
    const cz = p[c + 2] - oz;
    six += ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx);
  }
  return Math.abs(six) < 1e-9 ? 0 : six / 6;
}

/**
 * Sum of signed solid angles over 4π (Van Oosterom & Strackee 1983). The triangle that a point lies on is left out with
 * `except`: it counts +½ on one side and −½ on the other, so nothing in between.
 */
export function windingNumber(mesh: PolyMesh, list: readonly number[], p: Vec3, except = -1): number {
  const { positions: q, faceVert, triangles } = mesh;
  const [px, py, pz] = p;
  let sum = 0;
  for (const t of list) {
    if (t === except) continue;
    const [i, j, k] = [3 * faceVert[triangles[3 * t]], 3 * faceVert[triangles[3 * t + 1]], 3 * faceVert[triangles[3 * t + 2]]];
    const [ax, ay, az] = [q[i] - px, q[i + 1] - py, q[i + 2] - pz];
    const [bx, by, bz] = [q[j] - px, q[j + 1] - py, q[j + 2] - pz];
    const [cx, cy, cz] = [q[k] - px, q[k + 1] - py, q[k + 2] - pz];
    const la = Math.sqrt(ax * ax + ay * ay + az * az);
    const lb = Math.sqrt(bx * bx + by * by + bz * bz);
    const lc = Math.sqrt(cx * cx + cy * cy + cz * cz);
    const triple = ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx);
    const [ab, bc, ca] = [ax * bx + ay * by + az * bz, bx * cx + by * cy + bz * cz, cx * ax + cy * ay + cz * az];
    sum += 2 * Math.atan2(triple, la * lb * lc + ab * lc + bc * la + ca * lb);
  }
  return sum / (4 * Math.PI);
}

function openSign(mesh: PolyMesh, list: number[]): number {
  const step = Math.max(1, Math.floor(list.length / 24));
  let sum = 0;
  let n = 0;
  for (let i = 0; i < list.length; i += step) {
    const [a, b, c] = [0, 1, 2].map((j) => corner(mesh, 3 * list[i] + j));
    sum += windingNumber(
      mesh,
      list,
      vec3((k) => (a[k] + b[k] + c[k]) / 3),
      list[i],
    );
    n++;
  }
  const mean = sum / n;
  return Math.abs(mean) < 0.02 ? 0 : Math.sign(mean);
}
