import { edgesOf } from '../mesh/connectivity';
import { cageNormals } from '../mesh/normals';
import { type PolyMesh, vertexCount } from '../mesh/polymesh';
import { painted } from './dabs';

/** How far rays search round a part, as lines: 6 numbers an edge, mm, part space. */
export interface Cage {
  outer: Float32Array;
  inner: Float32Array;
}

/**
 * The edges of a low mesh moved out to where its rays begin and in to where they end.
 *
 * @param front rear per vertex, mm
 * @param dabs what was painted over them, see `laidDabs`
 */
export function cageOf(mesh: PolyMesh, front: ArrayLike<number>, rear: ArrayLike<number>, dabs: Float64Array): Cage {
  const n = vertexCount(mesh);
  const [out, inside] = [new Float32Array(3 * n), new Float32Array(3 * n)];
  const normals = cageNormals(mesh);
  const both = new Float64Array(2);
  for (let c = 0; c < mesh.faceVert.length; c++) {
    const v = mesh.faceVert[c];
    both[0] = front[v];
    both[1] = rear[v];
    const p = [mesh.positions[3 * v], mesh.positions[3 * v + 1], mesh.positions[3 * v + 2]];
    painted(dabs, p[0], p[1], p[2], both);
    for (let k = 0; k < 3; k++) {
      out[3 * v + k] = p[k] + normals[3 * c + k] * both[0];
      inside[3 * v + k] = p[k] - normals[3 * c + k] * both[1];
    }
  }
  const { ends, count } = edgesOf(mesh);
  const lines = (at: Float32Array) => {
    const made = new Float32Array(6 * count);
    for (let e = 0; e < 2 * count; e++) made.set(at.subarray(3 * ends[e], 3 * ends[e] + 3), 3 * e);
    return made;
  };
  return { outer: lines(out), inner: lines(inside) };
}
