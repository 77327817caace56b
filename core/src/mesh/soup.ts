import { type PolyMesh, triangleCount } from './polymesh';

/** The triangles of a mesh as bare corners: 9 numbers each, mm. */
export function soupOf(mesh: PolyMesh): Float64Array {
  const out = new Float64Array(9 * triangleCount(mesh));
  for (let i = 0; i < mesh.triangles.length; i++) {
    const v = 3 * mesh.faceVert[mesh.triangles[i]];
    out[3 * i] = mesh.positions[v];
    out[3 * i + 1] = mesh.positions[v + 1];
    out[3 * i + 2] = mesh.positions[v + 2];
  }
  return out;
}
