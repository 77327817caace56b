import TinyQueue from 'tinyqueue';
import { type Edges, edgesOf, edgeValence } from '../../mesh/connectivity';
import { faceNormals, hardEdges } from '../../mesh/normals';
import { attribute, faceCount, type PolyMesh } from '../../mesh/polymesh';

/** Faces that meet across edges that are no seam: the dual graph a layout is cut from. */
export interface FaceGraph {
  edges: Edges;
  normals: Float64Array;
  centres: Float64Array;
  /** 1 where two faces may not lie in one island. */
  cut: Uint8Array;
}

/** Seams are hard edges (marked or sharper than `angle` degrees), edges a person marked, borders of materials and regions. */
export function faceGraph(mesh: PolyMesh, angle: number): FaceGraph {
  const edges = edgesOf(mesh);
  const cut = hardEdges(mesh, { hardAngle: angle }, edges);
  const seam = attribute(mesh, 'seam', 'corner')?.data;
  const group = attribute(mesh, 'region', 'face')?.data;
  for (let e = 0; e < edges.count; e++) {
    const a = edges.corners[edges.start[e]];
    if (edgeValence(edges, e) !== 2) continue;
    const b = edges.corners[edges.start[e] + 1];
    if (seam?.[a] || seam?.[b] || (group && group[edges.faceOf[a]] !== group[edges.faceOf[b]])) cut[e] = 1;
  }
  const centres = new Float64Array(3 * faceCount(mesh));
  for (let f = 0; f < faceCount(mesh); f++) {
    const n = mesh.faceStart[f + 1] - mesh.faceStart[f];
    for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++)
      for (let k = 0; k < 3; k++) centres[3 * f + k] += mesh.positions[3 * mesh.faceVert[c] + k] / n;
  }
  return { edges, normals: faceNormals(mesh), centres, cut };
}

/** The faces across uncut edges. */
export function* across(mesh: PolyMesh, graph: FaceGraph, f: number): Generator<number> {
  const { edges, cut } = graph;
  for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
    const e = edges.ofCorner[c];
    if (cut[e] || edgeValence(edges, e) !== 2) continue;
    const [a, b] = [edges.corners[edges.start[e]], edges.corners[edges.start[e] + 1]];
    yield a === c ? edges.faceOf[b] : edges.faceOf[a];
  }
}

/** Sets of faces connected without crossing a seam. */
export function regions(mesh: PolyMesh, graph: FaceGraph, within?: readonly number[]): number[][] {
  const allowed = within && new Set(within);
  const seen = new Uint8Array(faceCount(mesh));
  const out: number[][] = [];
  for (const f of within ?? Array.from({ length: faceCount(mesh) }, (_, i) => i)) {
    if (seen[f]) continue;
    seen[f] = 1;
    const list = [f];
    for (const g of list)
      for (const h of across(mesh, graph, g))
        if (!seen[h] && (!allowed || allowed.has(h))) {
          seen[h] = 1;
          list.push(h);
        }
    out.push(list);
  }
  return out;
}

/**
 * Splits a region in two along the valley between its two ends: both grow at once over the surface, dearer where the
 * surface turns away from where they began, and the cut falls where they meet.
 */
export function halve(mesh: PolyMesh, graph: FaceGraph, faces: readonly number[]): [number[], number[]] {
  const inside = new Set(faces);
  const reach = (seeds: [number, number][]) => spreadOver(mesh, graph, inside, seeds);
  const last = (from: number) => {
    const { distance } = reach([[from, 0]]);
    let best = from;
    for (const f of faces) if (distance.has(f) && (distance.get(f) as number) > (distance.get(best) as number)) best = f;
    return best;
  };
  const a = last(faces[0]);
  const b = last(a);
  const { owner } = reach([
    [a, 0],
    [b, 1],
  ]);
  const halves: [number[], number[]] = [[], []];
  for (const f of faces) halves[owner.get(f) ?? 0].push(f);
  if (halves[0].length === 0 || halves[1].length === 0) {
    const middle = faces.length >> 1;
    return [faces.slice(0, middle), faces.slice(middle)];
  }
  return halves;
}

function spreadOver(
  mesh: PolyMesh,
  graph: FaceGraph,
  inside: Set<number>,
  seeds: [number, number][],
): { distance: Map<number, number>; owner: Map<number, number> } {
  const { normals, centres } = graph;
  const distance = new Map<number, number>();
  const owner = new Map<number, number>();
  const queue = new TinyQueue<[distance: number, face: number, owner: number, seed: number]>([], (a, b) => a[0] - b[0]);
  for (const [f, who] of seeds) queue.push([0, f, who, f]);
  for (let next = queue.pop(); next; next = queue.pop()) {
    const [d, f, who, seed] = next;
    if (owner.has(f)) continue;
    owner.set(f, who);
    distance.set(f, d);
    for (const g of across(mesh, graph, f)) {
      if (!inside.has(g) || owner.has(g)) continue;
      const step = Math.hypot(
        centres[3 * f] - centres[3 * g],
        centres[3 * f + 1] - centres[3 * g + 1],
        centres[3 * f + 2] - centres[3 * g + 2],
      );
      const cos =
        normals[3 * seed] * normals[3 * g] + normals[3 * seed + 1] * normals[3 * g + 1] + normals[3 * seed + 2] * normals[3 * g + 2];
      queue.push([d + step * (1 + 2 * (1 - cos)), g, who, seed]);
    }
  }
  return { distance, owner };
}
