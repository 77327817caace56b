import type { Edges } from '../../mesh/connectivity';
import { edgeValence } from '../../mesh/connectivity';
import type { PolyMesh } from '../../mesh/polymesh';

/** Edges whose two faces run the same way along them: one of the two is turned over. */
export function mixedWinding(mesh: PolyMesh, edges: Edges): number[] {
  const out: number[] = [];
  for (let e = 0; e < edges.count; e++) {
    if (edgeValence(edges, e) !== 2) continue;
    const [a, b] = [edges.corners[edges.start[e]], edges.corners[edges.start[e] + 1]];
    if (mesh.faceVert[a] === mesh.faceVert[b]) out.push(e);
  }
  return out;
}
