import { edgesOf } from '../mesh/connectivity';
import { cornerCount, type PolyMesh, vertexCount } from '../mesh/polymesh';
import { painted } from './dabs';
import { type Directions, directionsOf } from './prepare';

/**
 * The edges of a low mesh moved out to where its rays begin.
 *
 * @param front per vertex, mm
 * @param dabs what was painted over them, see `laidDabs`
 * @returns lines, 6 numbers an edge, mm, part space
 */
export function cageOf(mesh: PolyMesh, front: ArrayLike<number>, dabs: Float64Array, directions: Directions = 'averaged'): Float32Array {
  const split = directions === 'split';
  const moved = new Float32Array(3 * (split ? cornerCount(mesh) : vertexCount(mesh)));
  const normals = directionsOf(mesh, directions);
  const both = new Float64Array(2);
  for (let c = 0; c < mesh.faceVert.length; c++) {
    const v = 3 * mesh.faceVert[c];
    const at = split ? 3 * c : v;
    both[0] = front[mesh.faceVert[c]];
    painted(dabs, mesh.positions[v], mesh.positions[v + 1], mesh.positions[v + 2], both);
    for (let k = 0; k < 3; k++) moved[at + k] = mesh.positions[v + k] + normals[3 * c + k] * both[0];
  }
  if (split) return aroundFaces(mesh, moved);
  const { ends, count } = edgesOf(mesh);
  const lines = new Float32Array(6 * count);
  for (let e = 0; e < 2 * count; e++) lines.set(moved.subarray(3 * ends[e], 3 * ends[e] + 3), 3 * e);
  return lines;
}

/** Each face's own edges: where directions are split, neighbours part. @param moved 3 per corner */
function aroundFaces({ faceStart }: PolyMesh, moved: Float32Array): Float32Array {
  const lines = new Float32Array(2 * moved.length);
  let at = 0;
  for (let f = 0; f + 1 < faceStart.length; f++)
    for (let c = faceStart[f]; c < faceStart[f + 1]; c++) {
      const next = c + 1 < faceStart[f + 1] ? c + 1 : faceStart[f];
      lines.set(moved.subarray(3 * c, 3 * c + 3), at);
      lines.set(moved.subarray(3 * next, 3 * next + 3), at + 3);
      at += 6;
    }
  return lines;
}
