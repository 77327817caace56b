import { edgesOf } from '../mesh/connectivity';
import { cageNormals } from '../mesh/normals';
import { type PolyMesh, vertexCount } from '../mesh/polymesh';
import { painted } from './dabs';

/**
 * The edges of a low mesh moved out to where its rays begin.
 *
 * @param front per vertex, mm
 * @param dabs what was painted over them, see `laidDabs`
 * @returns lines, 6 numbers an edge, mm, part space
 */
export function cageOf(mesh: PolyMesh, front: ArrayLike<number>, dabs: Float64Array): Float32Array {
  const moved = new Float32Array(3 * vertexCount(mesh));
  const normals = cageNormals(mesh);
  const both = new Float64Array(2);
  for (let c = 0; c < mesh.faceVert.length; c++) {
    const v = 3 * mesh.faceVert[c];
    both[0] = front[mesh.faceVert[c]];
    painted(dabs, mesh.positions[v], mesh.positions[v + 1], mesh.positions[v + 2], both);
    for (let k = 0; k < 3; k++) moved[v + k] = mesh.positions[v + k] + normals[3 * c + k] * both[0];
  }
  const { ends, count } = edgesOf(mesh);
  const lines = new Float32Array(6 * count);
  for (let e = 0; e < 2 * count; e++) lines.set(moved.subarray(3 * ends[e], 3 * ends[e] + 3), 3 * e);
  return lines;
}
