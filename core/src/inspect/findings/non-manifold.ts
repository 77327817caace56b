import { type Edges, edgeValence } from '../../mesh/connectivity';
import { cornerCount, type PolyMesh, vertexCount } from '../../mesh/polymesh';

/** Edges with more than two faces, and vertices where several separate fans of faces meet in one point. */
export function nonManifold(mesh: PolyMesh, edges: Edges): { edges: number[]; vertices: number[] } {
  const bad: number[] = [];
  for (let e = 0; e < edges.count; e++) if (edgeValence(edges, e) > 2) bad.push(e);
  const fans = fansOf(mesh, edges);
  const seen = new Int32Array(vertexCount(mesh)).fill(-1);
  const several = new Set<number>();
  for (let c = 0; c < cornerCount(mesh); c++) {
    const v = mesh.faceVert[c];
    if (seen[v] < 0) seen[v] = fans[c];
    else if (seen[v] !== fans[c]) several.add(v);
  }
  // The ends of a bad edge are bad because of it; counted once, with the edge.
  for (const e of bad) {
    several.delete(edges.ends[2 * e]);
    several.delete(edges.ends[2 * e + 1]);
  }
  return { edges: bad, vertices: [...several] };
}

/** Corner → number of the fan it belongs to: corners on one vertex joined across manifold edges, either winding. */
export function fansOf(mesh: PolyMesh, edges: Edges): Uint32Array {
  const corners = cornerCount(mesh);
  const parent = Uint32Array.from({ length: corners }, (_, i) => i);
  const find = (i: number): number => {
    let x = i;
    while (parent[x] !== x) {
      parent[x] = parent[parent[x]];
      x = parent[x];
    }
    return x;
  };
  const join = (a: number, b: number) => {
    const [x, y] = [find(a), find(b)];
    if (x !== y) parent[Math.max(x, y)] = Math.min(x, y);
  };
  for (let e = 0; e < edges.count; e++) {
    if (edgeValence(edges, e) !== 2) continue;
    const [a, b] = [edges.corners[edges.start[e]], edges.corners[edges.start[e] + 1]];
    for (const p of [a, edges.next[a]]) for (const q of [b, edges.next[b]]) if (mesh.faceVert[p] === mesh.faceVert[q]) join(p, q);
  }
  return parent.map((_, c) => find(c));
}
