import { eigen3 } from '../maths/eigen3';
import { cornerAngles, faceNormals } from './normals';
import { cornerFaces, faceCount, type PolyMesh, vertexCount } from './polymesh';

/** Planes of a vertex nearer than this in direction are one. */
const SAME = Math.cos((0.5 * Math.PI) / 180);
/** No vertex moves farther than this many times the distance its planes do: a spike's tip would run away. */
const FARTHEST = 4;

/**
 * Where vertices go when their face planes move outward by 1: the shortest vector d with nᵢ · d = 1 for every plane, least
 * squares for more than three. Planes that agree count once, so a fan of coplanar triangles weighs as one face.
 *
 * @param only faces whose planes count; all when absent
 * @param by how far each face's plane moves, instead of 1
 * @returns 3 per vertex; zeros where no face counts
 */
export function planeOffsets(mesh: PolyMesh, only?: ArrayLike<number>, by?: ArrayLike<number>): Float64Array {
  const V = vertexCount(mesh);
  const normals = faceNormals(mesh);
  const angles = cornerAngles(mesh);
  const faceOf = cornerFaces(mesh);
  const corners = mesh.faceVert.length;
  const start = new Uint32Array(V + 1);
  for (let c = 0; c < corners; c++) start[mesh.faceVert[c] + 1]++;
  for (let v = 0; v < V; v++) start[v + 1] += start[v];
  const fill = start.slice(0, V);
  const list = new Uint32Array(corners);
  for (let c = 0; c < corners; c++) list[fill[mesh.faceVert[c]]++] = c;

  const out = new Float64Array(3 * V);
  const planes: number[][] = [];
  for (let v = 0; v < V; v++) {
    planes.length = 0;
    for (let i = start[v]; i < start[v + 1]; i++) {
      const c = list[i];
      const f = faceOf[c];
      if (only && !only[f]) continue;
      const [x, y, z] = [normals[3 * f], normals[3 * f + 1], normals[3 * f + 2]];
      if (x === 0 && y === 0 && z === 0) continue;
      const far = by ? by[f] : 1;
      const known = planes.find((q) => q[4] === far && q[0] * x + q[1] * y + q[2] * z > SAME * q[3]);
      if (known) {
        // A sum weighted by the angle, its length kept beside it.
        for (const [k, n] of [x, y, z].entries()) known[k] += n * angles[c];
        known[3] = Math.hypot(known[0], known[1], known[2]);
      } else planes.push([x * angles[c], y * angles[c], z * angles[c], Math.max(angles[c], 1e-12), far]);
    }
    if (planes.length > 0) out.set(together(planes), 3 * v);
  }
  return out;
}

/** The shortest least-squares solution of nᵢ · d = rᵢ, through the eigenvectors of Σ nᵢnᵢᵀ. */
function together(planes: readonly number[][]): [number, number, number] {
  const units = planes.map(([x, y, z, l, far]) => [x / l, y / l, z / l, far]);
  if (units.length === 1) return units[0].slice(0, 3).map((x) => x * units[0][3]) as [number, number, number];
  const m = [0, 0, 0, 0, 0, 0];
  const r = [0, 0, 0];
  for (const [x, y, z, far] of units) {
    m[0] += x * x;
    m[1] += x * y;
    m[2] += x * z;
    m[3] += y * y;
    m[4] += y * z;
    m[5] += z * z;
    r[0] += x * far;
    r[1] += y * far;
    r[2] += z * far;
  }
  const { values, vectors } = eigen3(m);
  const most = Math.max(...values);
  const d: [number, number, number] = [0, 0, 0];
  for (let i = 0; i < 3; i++) {
    // Directions that the planes leave free (two planes: along their edge) are not moved in.
    if (values[i] < 1e-6 * most) continue;
    const e = vectors[i];
    const along = (e[0] * r[0] + e[1] * r[1] + e[2] * r[2]) / values[i];
    for (let k = 0; k < 3; k++) d[k] += along * e[k];
  }
  const l = Math.hypot(...d);
  return l > FARTHEST ? [(d[0] / l) * FARTHEST, (d[1] / l) * FARTHEST, (d[2] / l) * FARTHEST] : d;
}

/**
 * How far vertices can be moved along their vectors before an edge of a face has no length left, and the first vertex that runs
 * out. Faces of chosen ones only.
 *
 * @param vectors 3 per vertex: what a vertex moves by per mm
 */
export function roomAlong(mesh: PolyMesh, vectors: Float64Array, only?: ArrayLike<number>): { most: number; vertex: number } {
  const p = mesh.positions;
  let most = Infinity;
  let vertex = -1;
  for (let f = 0; f < faceCount(mesh); f++) {
    if (only && !only[f]) continue;
    const [from, to] = [mesh.faceStart[f], mesh.faceStart[f + 1]];
    for (let c = from; c < to; c++) {
      const a = mesh.faceVert[c];
      const b = mesh.faceVert[c + 1 < to ? c + 1 : from];
      let [long, shrink] = [0, 0];
      for (let k = 0; k < 3; k++) {
        const e = p[3 * b + k] - p[3 * a + k];
        long += e * e;
        shrink -= e * (vectors[3 * b + k] - vectors[3 * a + k]);
      }
      // A quad's corner that closes up with two sides at once runs out first of all.
      if (shrink > 1e-12 * long && long / shrink < most) {
        most = long / shrink;
        vertex = a;
      }
    }
  }
  return { most, vertex };
}
