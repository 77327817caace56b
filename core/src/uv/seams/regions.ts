import TinyQueue from 'tinyqueue';
import { type Edges, edgesOf, edgeValence } from '../../mesh/connectivity';
import { faceNormals, hardEdges } from '../../mesh/normals';
import { attribute, faceCount, type PolyMesh } from '../../mesh/polymesh';
import { edgeLengths, shadedHard } from './measure';

/** Faces that meet across edges that are no seam: the dual graph a layout is cut from. */
export interface FaceGraph {
  edges: Edges;
  normals: Float64Array;
  centres: Float64Array;
  /** 1 where two faces may not lie in one island. */
  cut: Uint8Array;
  /** 1 where a person wants them in one. */
  joined: Uint8Array | null;
  /** What each edge’s mm count as; less where they hide. */
  dear: Float32Array | null;
}

/** Where a file split the normals along more than this share of its blunt edges, it was not shaded smoothly: there its splits say nothing. */
const FACETED = 0.5;
/** Blunter than this, as a cosine: 25°, as the sides of something round of fifteen sides meet. */
const BLUNT = Math.cos((25 * Math.PI) / 180);
const FLAT = Math.cos(Math.PI / 180);
/** What an edge nobody sees counts as, where one in full view counts as 1, and one in a hollow. */
const HIDDEN = 0.35;
const HOLLOW = 0.8;

/**
 * Seams are hard edges (marked, sharper than `angle` degrees, or with normals a file split), edges a person opened, borders of regions; what
 * a person closed is none, unless a region ends there.
 *
 * @param looks what share of the looks at each face arrives, 0 … 1
 */
export function faceGraph(mesh: PolyMesh, angle: number, looks?: ArrayLike<number>): FaceGraph {
  const edges = edgesOf(mesh);
  const normals = faceNormals(mesh);
  const cut = hardEdges(mesh, { hardAngle: angle }, edges, normals);
  const split = splitEdges(mesh, edges, normals);
  const [seam, closed] = [attribute(mesh, 'seam', 'corner')?.data, attribute(mesh, 'joined', 'corner')?.data];
  const group = attribute(mesh, 'region', 'face')?.data;
  const joined = closed ? new Uint8Array(edges.count) : null;
  for (let e = 0; e < edges.count; e++) {
    const a = edges.corners[edges.start[e]];
    if (edgeValence(edges, e) !== 2) continue;
    const b = edges.corners[edges.start[e] + 1];
    if (split?.[e]) cut[e] = 1;
    // Faces that lie back to back on the same edge can’t be laid side by side.
    if (joined && (closed?.[a] || closed?.[b]) && mesh.faceVert[a] !== mesh.faceVert[b]) {
      joined[e] = 1;
      cut[e] = 0;
    }
    if (seam?.[a] || seam?.[b] || (group && group[edges.faceOf[a]] !== group[edges.faceOf[b]])) {
      cut[e] = 1;
      if (joined) joined[e] = 0;
    }
  }
  const centres = centresOf(mesh);
  const graph: FaceGraph = { edges, normals, centres, cut, joined, dear: null };
  return looks ? { ...graph, dear: dearness(mesh, graph, looks) } : graph;
}

/** The middle of each face’s corners, mm; 3 per face. */
export function centresOf(mesh: PolyMesh): Float64Array {
  const centres = new Float64Array(3 * faceCount(mesh));
  for (let f = 0; f < faceCount(mesh); f++) {
    const n = mesh.faceStart[f + 1] - mesh.faceStart[f];
    for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++)
      for (let k = 0; k < 3; k++) centres[3 * f + k] += mesh.positions[3 * mesh.faceVert[c] + k] / n;
  }
  return centres;
}

/** Edges whose sides have normals of their own in a file; null where it brought none. Of one that split all its blunt edges only the others. */
function splitEdges(mesh: PolyMesh, edges: Edges, normals: Float64Array): Uint8Array | null {
  if (!attribute(mesh, 'normal', 'corner')) return null;
  const split = shadedHard(mesh, edges);
  let [blunt, hard] = [0, 0];
  const isBlunt = new Uint8Array(edges.count);
  for (let e = 0; e < edges.count; e++) {
    if (edgeValence(edges, e) !== 2) continue;
    const [f, g] = [0, 1].map((k) => 3 * edges.faceOf[edges.corners[edges.start[e] + k]]);
    const cosine = normals[f] * normals[g] + normals[f + 1] * normals[g + 1] + normals[f + 2] * normals[g + 2];
    if (cosine < BLUNT) continue;
    isBlunt[e] = 1;
    if (cosine > FLAT) continue;
    blunt++;
    hard += split[e];
  }
  return hard <= FACETED * blunt ? split : split.map((s, e) => (isBlunt[e] ? 0 : s));
}

/**
 * What each edge’s mm count as: less the less its faces are looked at, and in a hollow; about 1 over all, so that a part nobody looks at is
 * not cut more than another. To hundredths, so that mirrored sides agree.
 */
function dearness(mesh: PolyMesh, { edges, normals, centres }: FaceGraph, looks: ArrayLike<number>): Float32Array {
  const dear = new Float32Array(edges.count).fill(1);
  const lengths = edgeLengths(mesh, edges);
  let [sum, whole] = [0, 0];
  for (let e = 0; e < edges.count; e++) {
    if (edgeValence(edges, e) !== 2) continue;
    const [f, g] = [edges.faceOf[edges.corners[edges.start[e]]], edges.faceOf[edges.corners[edges.start[e] + 1]]];
    let [above, apart] = [0, 0];
    for (let k = 0; k < 3; k++) {
      const d = centres[3 * g + k] - centres[3 * f + k];
      above += normals[3 * f + k] * d;
      apart += d * d;
    }
    const seen = HIDDEN + (1 - HIDDEN) * Math.min(1, Math.max(looks[f], looks[g]));
    dear[e] = seen * (above > 1e-3 * Math.sqrt(apart) ? HOLLOW : 1);
    sum += lengths[e] * dear[e];
    whole += lengths[e];
  }
  for (let e = 0; e < edges.count && sum > 0; e++)
    if (edgeValence(edges, e) === 2) dear[e] = Math.round((100 * dear[e] * whole) / sum) / 100;
  return dear;
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
