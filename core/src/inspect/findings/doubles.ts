import { type PolyMesh, vertexCount } from '../../mesh/polymesh';
import { coincidentVertices } from '../../mesh/weld';

/** Points nearer than this look joined, mm. */
export const DOUBLE_MM = 0.005;

/** Vertices that stand in the same place as an earlier one without being joined to it. */
export function doubles(mesh: PolyMesh): number[] {
  const used = new Uint8Array(vertexCount(mesh));
  for (const v of mesh.faceVert) used[v] = 1;
  const to = coincidentVertices(mesh.positions, DOUBLE_MM, used);
  const out: number[] = [];
  for (let v = 0; v < to.length; v++) if (to[v] !== v) out.push(v);
  return out;
}
