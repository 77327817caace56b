import { edgesOf, edgeValence } from './connectivity';
import { gather, keepFaces, reindex } from './edit';
import {
  type Attribute,
  attribute,
  cornerCount,
  faceCount,
  makeMesh,
  nextCorner,
  type PolyMesh,
  vertexCount,
  withAttribute,
} from './polymesh';

/** Options for {@link weld}. */
export interface WeldOptions {
  /** Points nearer than this are one, mm. */
  within: number;
  /** Mark the edges that were open before as seams, so that the opening stays a cut in the layout. */
  keepOpeningAsSeam?: boolean;
}

/**
 * Vertex → the vertex it coincides with: the lowest-numbered one within `within` mm. A grid of cells twice as wide as that
 * distance holds the candidates in chains under a hash of the cell (Teschner et al. 2003), so the cost is linear for meshes
 * without heaps of points in one place.
 */
export function coincidentVertices(positions: Float64Array, within: number, used?: Uint8Array): Uint32Array {
  const n = positions.length / 3;
  const to = Uint32Array.from({ length: n }, (_, i) => i);
  const cell = Math.max(within, 1e-9) * 2;
  const r2 = within * within;
  const mask = 2 ** Math.max(4, Math.ceil(Math.log2(Math.max(n, 1) * 1.5))) - 1;
  // Cells can share a chain: what is in it is measured anyway.
  const head = new Int32Array(mask + 1).fill(-1);
  const after = new Int32Array(n);
  const chain = (i: number, j: number, k: number) => (Math.imul(i, 73856093) ^ Math.imul(j, 19349663) ^ Math.imul(k, 83492791)) & mask;
  for (let v = 0; v < n; v++) {
    if (used && !used[v]) continue;
    const x = positions[3 * v];
    const y = positions[3 * v + 1];
    const z = positions[3 * v + 2];
    const i = Math.floor(x / cell);
    const j = Math.floor(y / cell);
    const k = Math.floor(z / cell);
    // The nearer neighbour on each axis: a circle of `within` reaches into no other.
    const di = x / cell - i < 0.5 ? -1 : 1;
    const dj = y / cell - j < 0.5 ? -1 : 1;
    const dk = z / cell - k < 0.5 ? -1 : 1;
    let found = -1;
    for (let corner = 0; corner < 8; corner++) {
      const at = chain(i + (corner & 1 ? di : 0), j + (corner & 2 ? dj : 0), k + (corner & 4 ? dk : 0));
      for (let w = head[at]; w >= 0; w = after[w]) {
        const dx = positions[3 * w] - x;
        const dy = positions[3 * w + 1] - y;
        const dz = positions[3 * w + 2] - z;
        if (dx * dx + dy * dy + dz * dz <= r2 && (found < 0 || w < found)) found = w;
      }
    }
    if (found >= 0) to[v] = found;
    else {
      const at = chain(i, j, k);
      after[v] = head[at];
      head[at] = v;
    }
  }
  return to;
}

/** Joins points that stand in the same place. Faces left with fewer than three corners vanish. */
export function weld(mesh: PolyMesh, { within, keepOpeningAsSeam = false }: WeldOptions): PolyMesh {
  const used = new Uint8Array(vertexCount(mesh));
  for (const v of mesh.faceVert) used[v] = 1;
  const to = coincidentVertices(mesh.positions, within, used);
  let source = mesh;
  if (keepOpeningAsSeam) source = markMoved(mesh, to);
  return dropRepeats(reindex(source, to));
}

/** Marks as seams the open edges both of whose ends get joined: exactly the opening that closes. */
function markMoved(mesh: PolyMesh, to: Uint32Array): PolyMesh {
  const joined = new Uint8Array(vertexCount(mesh));
  for (let v = 0; v < to.length; v++)
    if (to[v] !== v) {
      joined[v] = 1;
      joined[to[v]] = 1;
    }
  const edges = edgesOf(mesh);
  const seam = Uint8Array.from(attribute(mesh, 'seam', 'corner')?.data ?? new Uint8Array(cornerCount(mesh)));
  for (let e = 0; e < edges.count; e++)
    if (edgeValence(edges, e) === 1 && joined[edges.ends[2 * e]] && joined[edges.ends[2 * e + 1]]) seam[edges.corners[edges.start[e]]] = 1;
  return withAttribute(mesh, { name: 'seam', domain: 'corner', size: 1, data: seam });
}

function allUsed(mesh: PolyMesh): boolean {
  const used = new Uint8Array(vertexCount(mesh));
  for (const v of mesh.faceVert) used[v] = 1;
  return !used.includes(0);
}

function hasRepeats({ faceStart, faceVert }: PolyMesh): boolean {
  for (let f = 0; f + 1 < faceStart.length; f++) {
    const [from, to] = [faceStart[f], faceStart[f + 1]];
    if (to - from < 3) return true;
    for (let c = from; c < to; c++) if (faceVert[c] === faceVert[c + 1 < to ? c + 1 : from]) return true;
  }
  return false;
}

/** Leaves out corners that repeat the one before them, and faces of which fewer than three different ones remain. */
export function dropRepeats(mesh: PolyMesh): PolyMesh {
  if (!hasRepeats(mesh)) return allUsed(mesh) ? mesh : keepFaces(mesh, () => true);
  const keepCorner: number[] = [];
  const faceStart = [0];
  const faceFrom: number[] = [];
  for (let f = 0; f < faceCount(mesh); f++) {
    const kept: number[] = [];
    for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++)
      if (mesh.faceVert[c] !== mesh.faceVert[nextCorner(mesh, f, c)]) kept.push(c);
    if (new Set(kept.map((c) => mesh.faceVert[c])).size < 3) continue;
    keepCorner.push(...kept);
    faceStart.push(keepCorner.length);
    faceFrom.push(f);
  }
  const pick = (a: Attribute) => (a.domain === 'vertex' ? a : gather(a, a.domain === 'corner' ? keepCorner : faceFrom));
  const cleaned = makeMesh({
    positions: mesh.positions,
    faceStart,
    faceVert: keepCorner.map((c) => mesh.faceVert[c]),
    attributes: mesh.attributes.map(pick),
    patches: mesh.patches,
  });
  return keepFaces(cleaned, () => true);
}
