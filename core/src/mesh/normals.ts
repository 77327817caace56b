import { type Edges, edgesOf, edgeValence, Groups, twin } from './connectivity';
import { attribute, cornerCount, faceCount, type PolyMesh, withAttribute } from './polymesh';
import { newell } from './triangulate';

/** Unit face normals, 3 per face; a face without area gets zeros. */
export function faceNormals(mesh: PolyMesh): Float64Array {
  const out = new Float64Array(3 * faceCount(mesh));
  for (let f = 0; f < faceCount(mesh); f++) {
    const n = newell(mesh.positions, mesh.faceVert, mesh.faceStart[f], mesh.faceStart[f + 1]);
    const l = Math.sqrt(n[0] * n[0] + n[1] * n[1] + n[2] * n[2]);
    if (l === 0) continue;
    out[3 * f] = n[0] / l;
    out[3 * f + 1] = n[1] / l;
    out[3 * f + 2] = n[2] / l;
  }
  return out;
}

/** The angle at each corner, radians. */
export function cornerAngles(mesh: PolyMesh): Float64Array {
  const out = new Float64Array(cornerCount(mesh));
  const p = mesh.positions;
  for (let f = 0; f < faceCount(mesh); f++) {
    const s = mesh.faceStart[f];
    const e = mesh.faceStart[f + 1];
    for (let c = s; c < e; c++) {
      const v = 3 * mesh.faceVert[c];
      const a = 3 * mesh.faceVert[c > s ? c - 1 : e - 1];
      const b = 3 * mesh.faceVert[c + 1 < e ? c + 1 : s];
      const ax = p[a] - p[v];
      const ay = p[a + 1] - p[v + 1];
      const az = p[a + 2] - p[v + 2];
      const bx = p[b] - p[v];
      const by = p[b + 1] - p[v + 1];
      const bz = p[b + 2] - p[v + 2];
      const cr = Math.hypot(ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx);
      out[c] = Math.atan2(cr, ax * bx + ay * by + az * bz);
    }
  }
  return out;
}

/** How normals are smoothed. */
export interface NormalOptions {
  /** Edges sharper than this are hard, degrees; 180 leaves only the edges marked `hard`. */
  hardAngle?: number;
}

/**
 * 1 for every edge that is hard: marked on either side, sharper than `hardAngle`, a rim or not manifold.
 *
 * @param known the face normals, where they are worked out already
 */
export function hardEdges(
  mesh: PolyMesh,
  { hardAngle = 180 }: NormalOptions = {},
  edges: Edges = edgesOf(mesh),
  known?: Float64Array,
): Uint8Array {
  const marked = attribute(mesh, 'hard', 'corner')?.data;
  const normals = known ?? (hardAngle < 180 ? faceNormals(mesh) : new Float64Array(0));
  const limit = Math.cos((hardAngle * Math.PI) / 180);
  const out = new Uint8Array(edges.count);
  for (let e = 0; e < edges.count; e++) {
    const a = edges.corners[edges.start[e]];
    if (edgeValence(edges, e) !== 2) {
      out[e] = 1;
      continue;
    }
    const b = edges.corners[edges.start[e] + 1];
    if (marked?.[a] || marked?.[b] || mesh.faceVert[a] === mesh.faceVert[b]) out[e] = 1;
    else if (hardAngle < 180) {
      const f = 3 * edges.faceOf[a];
      const g = 3 * edges.faceOf[b];
      if (normals[f] * normals[g] + normals[f + 1] * normals[g + 1] + normals[f + 2] * normals[g + 2] < limit) out[e] = 1;
    }
  }
  return out;
}

/**
 * Normals at corners: face normals weighted by the corner's angle (Thürmer & Wüthrich 1998), averaged round a vertex as
 * far as the next hard edge. A mesh that came with normals of its own (`normal`, corner) keeps them.
 *
 * @returns 3 per corner, unit length
 */
export function cornerNormals(mesh: PolyMesh, options: NormalOptions = {}): Float64Array {
  const own = attribute(mesh, 'normal', 'corner');
  if (own) return Float64Array.from(own.data);
  const edges = edgesOf(mesh);
  return smoothedNormals(mesh, edges, hardEdges(mesh, options, edges));
}

/**
 * One normal per vertex and smoothing group, ignoring hard edges: the direction a cage moves in.
 * @returns 3 per corner, unit length
 */
export function cageNormals(mesh: PolyMesh): Float64Array {
  const edges = edgesOf(mesh);
  return smoothedNormals(mesh, edges, new Uint8Array(edges.count));
}

/**
 * Normals at corners weighed by the faces' areas as well as their angles, so that large flats keep their direction beside
 * narrow bevels.
 *
 * @returns 3 per corner, unit length
 */
export function weightedNormals(mesh: PolyMesh): Float64Array {
  const edges = edgesOf(mesh);
  const areas = Float64Array.from({ length: faceCount(mesh) }, (_, f) =>
    Math.hypot(...newell(mesh.positions, mesh.faceVert, mesh.faceStart[f], mesh.faceStart[f + 1])),
  );
  return smoothedNormals(mesh, edges, hardEdges(mesh, {}, edges), areas);
}

function smoothedNormals(mesh: PolyMesh, edges: Edges, hard: Uint8Array, areas?: Float64Array): Float64Array {
  const corners = cornerCount(mesh);
  const groups = new Groups(corners);
  for (let c = 0; c < corners; c++) {
    if (hard[edges.ofCorner[c]]) continue;
    const t = twin(edges, c);
    if (t < 0) continue;
    // Consistently wound twins run opposite ways: c's start is where t ends.
    if (mesh.faceVert[edges.next[t]] === mesh.faceVert[c]) groups.join(c, edges.next[t]);
  }
  const face = faceNormals(mesh);
  const angles = cornerAngles(mesh);
  const sums = new Float64Array(3 * corners);
  for (let c = 0; c < corners; c++) {
    const r = 3 * groups.find(c);
    const f = 3 * edges.faceOf[c];
    const weight = angles[c] * (areas?.[edges.faceOf[c]] ?? 1);
    for (let k = 0; k < 3; k++) sums[r + k] += face[f + k] * weight;
  }
  const out = new Float64Array(3 * corners);
  for (let c = 0; c < corners; c++) {
    const r = 3 * groups.find(c);
    const l = Math.hypot(sums[r], sums[r + 1], sums[r + 2]);
    const f = 3 * edges.faceOf[c];
    for (let k = 0; k < 3; k++) out[3 * c + k] = l > 1e-12 ? sums[r + k] / l : face[f + k];
  }
  return out;
}

/** The mesh with every edge sharper than `degrees` marked hard on both its sides. */
export function markHard(mesh: PolyMesh, degrees: number): PolyMesh {
  const edges = edgesOf(mesh);
  const hard = hardEdges(mesh, { hardAngle: degrees }, edges);
  return withAttribute(mesh, { name: 'hard', domain: 'corner', size: 1, data: Uint8Array.from(edges.ofCorner, (e) => hard[e]) });
}
