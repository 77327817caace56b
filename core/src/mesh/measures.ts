import type { Mat4 } from '../maths/mat4';
import { edgesOf, edgeValence } from './connectivity';
import { faceCount, type PolyMesh, triangleCount, vertexCount } from './polymesh';

/** An axis-aligned box, mm. */
export interface Bounds {
  min: [number, number, number];
  max: [number, number, number];
}

export const EMPTY_BOUNDS = (): Bounds => ({ min: [Infinity, Infinity, Infinity], max: [-Infinity, -Infinity, -Infinity] });

/** Makes a box hold a point as well, in place. */
export function growBounds(b: Bounds, x: number, y: number, z: number): void {
  const p = [x, y, z];
  for (let k = 0; k < 3; k++) {
    if (p[k] < b.min[k]) b.min[k] = p[k];
    if (p[k] > b.max[k]) b.max[k] = p[k];
  }
}

/** Smallest box round the vertices that faces use, mm. */
export function boundsOf(mesh: PolyMesh): Bounds {
  const b = EMPTY_BOUNDS();
  const p = mesh.positions;
  for (const v of mesh.faceVert) growBounds(b, p[3 * v], p[3 * v + 1], p[3 * v + 2]);
  return b;
}

/** The box round a mesh that stands somewhere; it is not moved there for that. */
export function placedBounds(mesh: PolyMesh, m: Mat4): Bounds {
  const b = EMPTY_BOUNDS();
  const p = mesh.positions;
  // Each vertex once, whichever corners stand on it.
  const seen = new Uint8Array(p.length / 3);
  for (const v of mesh.faceVert) {
    if (seen[v]) continue;
    seen[v] = 1;
    const [x, y, z] = [p[3 * v], p[3 * v + 1], p[3 * v + 2]];
    growBounds(b, m[0] * x + m[4] * y + m[8] * z + m[12], m[1] * x + m[5] * y + m[9] * z + m[13], m[2] * x + m[6] * y + m[10] * z + m[14]);
  }
  return b;
}

/** Area of the triangulated surface, mm². */
export function areaOf(mesh: PolyMesh): number {
  let sum = 0;
  for (let t = 0; t < triangleCount(mesh); t++) sum += triangleArea(mesh, t);
  return sum;
}

/** Area of one triangle, mm². */
export function triangleArea(mesh: PolyMesh, t: number): number {
  const p = mesh.positions;
  const a = 3 * mesh.faceVert[mesh.triangles[3 * t]];
  const b = 3 * mesh.faceVert[mesh.triangles[3 * t + 1]];
  const c = 3 * mesh.faceVert[mesh.triangles[3 * t + 2]];
  const ux = p[b] - p[a];
  const uy = p[b + 1] - p[a + 1];
  const uz = p[b + 2] - p[a + 2];
  const vx = p[c] - p[a];
  const vy = p[c + 1] - p[a + 1];
  const vz = p[c + 2] - p[a + 2];
  return 0.5 * Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx);
}

/**
 * Signed volume by the divergence theorem, mm³: positive when normals face outward. Of a closed surface it does not
 * depend on the origin; of an open one it is taken about the middle of its box and only its sign means something.
 */
export function volumeOf(mesh: PolyMesh, only?: (face: number) => boolean): number {
  const b = boundsOf(mesh);
  const o = [0, 1, 2].map((k) => (b.min[k] + b.max[k]) / 2);
  const p = mesh.positions;
  let six = 0;
  for (let t = 0; t < triangleCount(mesh); t++) {
    if (only && !only(mesh.triangleFace[t])) continue;
    const [a, bb, c] = [0, 1, 2].map((k) => 3 * mesh.faceVert[mesh.triangles[3 * t + k]]);
    const ax = p[a] - o[0];
    const ay = p[a + 1] - o[1];
    const az = p[a + 2] - o[2];
    const bx = p[bb] - o[0];
    const by = p[bb + 1] - o[1];
    const bz = p[bb + 2] - o[2];
    const cx = p[c] - o[0];
    const cy = p[c + 1] - o[1];
    const cz = p[c + 2] - o[2];
    six += ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx);
  }
  return six / 6;
}

/** Closed and manifold: every edge has exactly two faces, running opposite ways. */
export function isWatertight(mesh: PolyMesh): boolean {
  if (faceCount(mesh) === 0) return false;
  const edges = edgesOf(mesh);
  for (let e = 0; e < edges.count; e++) {
    if (edgeValence(edges, e) !== 2) return false;
    const [a, b] = [edges.corners[edges.start[e]], edges.corners[edges.start[e] + 1]];
    if (mesh.faceVert[a] === mesh.faceVert[b]) return false;
  }
  return true;
}

/** V − E + F over the vertices that faces use. */
export function eulerCharacteristic(mesh: PolyMesh): number {
  const used = new Uint8Array(vertexCount(mesh));
  for (const v of mesh.faceVert) used[v] = 1;
  let v = 0;
  for (const u of used) v += u;
  return v - edgesOf(mesh).count + faceCount(mesh);
}
