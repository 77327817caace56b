import { cornerCount, cornerFaces, faceCount, nextCorner, type PolyMesh, vertexCount } from './polymesh';

/**
 * The edges of a mesh, derived on demand. Edge e joins vertices `ends[2e] < ends[2e + 1]`; the corners that start it are
 * `corners[start[e] … start[e + 1] - 1]`: one on an open rim, two inside a surface, more where it is not manifold.
 */
export interface Edges {
  count: number;
  ends: Uint32Array;
  start: Uint32Array;
  corners: Uint32Array;
  /** Corner → edge. */
  ofCorner: Uint32Array;
  /** Corner → face. */
  faceOf: Uint32Array;
  /** Corner → the corner after it round its face. */
  next: Uint32Array;
}

/** What was asked about last: a mesh is looked at by one measure after the other. Held only as long as its mesh is. */
const asked = new WeakMap<Uint32Array, { faceStart: Uint32Array; edges: Edges }>();
let last: WeakRef<Uint32Array> | null = null;

/** Edges of a mesh, in the order their corners come; the same until another mesh is asked about. Not to be written into. */
export function edgesOf(mesh: PolyMesh): Edges {
  const known = asked.get(mesh.faceVert);
  if (known && known.faceStart === mesh.faceStart) return known.edges;
  // One alone is kept: edges of all parts of a large piece would take more than the piece.
  const older = last?.deref();
  if (older) asked.delete(older);
  const edges = connect(mesh);
  asked.set(mesh.faceVert, { faceStart: mesh.faceStart, edges });
  last = new WeakRef(mesh.faceVert);
  return edges;
}

function connect(mesh: PolyMesh): Edges {
  const corners = cornerCount(mesh);
  const faceOf = cornerFaces(mesh);
  const next = new Uint32Array(corners);
  for (let f = 0; f < faceCount(mesh); f++)
    for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) next[c] = nextCorner(mesh, f, c);
  const low = new Uint32Array(corners);
  const high = new Uint32Array(corners);
  for (let c = 0; c < corners; c++) {
    const a = mesh.faceVert[c];
    const b = mesh.faceVert[next[c]];
    low[c] = Math.min(a, b);
    high[c] = Math.max(a, b);
  }
  // Bucket the corners by their lower vertex, then match by the higher one: linear, and stable in corner order.
  const vertices = vertexCount(mesh);
  const bucket = new Uint32Array(vertices + 1);
  for (let c = 0; c < corners; c++) bucket[low[c] + 1]++;
  for (let v = 0; v < vertices; v++) bucket[v + 1] += bucket[v];
  const fill = bucket.slice(0, vertices);
  const sorted = new Uint32Array(corners);
  for (let c = 0; c < corners; c++) sorted[fill[low[c]]++] = c;
  const ofCorner = new Uint32Array(corners);
  const ends = new Uint32Array(2 * corners);
  const counts = new Uint32Array(corners);
  let count = 0;
  for (let v = 0; v < vertices; v++) {
    // At most vertices a look along the few edges already there; a map where very many meet.
    const from = count;
    const many = bucket[v + 1] - bucket[v] > 64 ? new Map<number, number>() : null;
    for (let k = bucket[v]; k < bucket[v + 1]; k++) {
      const c = sorted[k];
      let e = many ? (many.get(high[c]) ?? count) : from;
      if (!many) while (e < count && ends[2 * e + 1] !== high[c]) e++;
      if (e === count) {
        ends[2 * e] = v;
        ends[2 * e + 1] = high[c];
        many?.set(high[c], e);
        count++;
      }
      ofCorner[c] = e;
      counts[e]++;
    }
  }
  const start = new Uint32Array(count + 1);
  for (let e = 0; e < count; e++) start[e + 1] = start[e] + counts[e];
  const place = start.slice(0, count);
  const list = new Uint32Array(corners);
  for (let c = 0; c < corners; c++) list[place[ofCorner[c]]++] = c;
  return { count, ends: ends.slice(0, 2 * count), start, corners: list, ofCorner, faceOf, next };
}

export const edgeValence = (edges: Edges, e: number): number => edges.start[e + 1] - edges.start[e];

/** The corner on the other side of a manifold edge, or −1 on a rim or where more than two faces meet. */
export function twin(edges: Edges, c: number): number {
  const e = edges.ofCorner[c];
  if (edgeValence(edges, e) !== 2) return -1;
  const first = edges.corners[edges.start[e]];
  return first === c ? edges.corners[edges.start[e] + 1] : first;
}

/** Whether both sides of an edge have its ends in the same places of a layout. @param uv by corner @param c, d its ends @param c2, d2 the same as the neighbour has them */
export const isJoined = (uv: ArrayLike<number>, c: number, d: number, c2: number, d2: number): boolean =>
  [0, 1].every((k) => Math.abs(uv[2 * c + k] - uv[2 * c2 + k]) < 1e-9 && Math.abs(uv[2 * d + k] - uv[2 * d2 + k]) < 1e-9);

/** Disjoint sets with path halving. */
export class Groups {
  private readonly parent: Uint32Array;
  constructor(size: number) {
    this.parent = Uint32Array.from({ length: size }, (_, i) => i);
  }
  find(i: number): number {
    const p = this.parent;
    let x = i;
    while (p[x] !== x) {
      p[x] = p[p[x]];
      x = p[x];
    }
    return x;
  }
  /** The lower representative wins, so results don't depend on the order of joining. */
  join(a: number, b: number): void {
    const x = this.find(a);
    const y = this.find(b);
    if (x < y) this.parent[y] = x;
    else this.parent[x] = y;
  }
}

/** Face → number of the connected shell it belongs to (joined through shared vertices), and how many there are. */
export function shellsOf(mesh: PolyMesh): { ofFace: Uint32Array; count: number } {
  const groups = new Groups(vertexCount(mesh));
  for (let f = 0; f < faceCount(mesh); f++)
    for (let c = mesh.faceStart[f] + 1; c < mesh.faceStart[f + 1]; c++) groups.join(mesh.faceVert[c - 1], mesh.faceVert[c]);
  const ids = new Map<number, number>();
  const ofFace = new Uint32Array(faceCount(mesh));
  for (let f = 0; f < faceCount(mesh); f++) {
    const root = groups.find(mesh.faceVert[mesh.faceStart[f]]);
    if (!ids.has(root)) ids.set(root, ids.size);
    ofFace[f] = ids.get(root) as number;
  }
  return { ofFace, count: ids.size };
}

/** Open rims as closed loops of vertices, in the direction their faces run. Branching rims are cut where they meet. */
export function boundaryLoops(mesh: PolyMesh, edges: Edges = edgesOf(mesh)): number[][] {
  const after = new Map<number, number[]>();
  for (let e = 0; e < edges.count; e++) {
    if (edgeValence(edges, e) !== 1) continue;
    const c = edges.corners[edges.start[e]];
    const a = mesh.faceVert[c];
    const list = after.get(a);
    if (list) list.push(mesh.faceVert[edges.next[c]]);
    else after.set(a, [mesh.faceVert[edges.next[c]]]);
  }
  const loops: number[][] = [];
  for (const first of [...after.keys()]) {
    while ((after.get(first)?.length ?? 0) > 0) {
      const loop: number[] = [];
      let v = first;
      for (;;) {
        const next = after.get(v)?.pop();
        if (next === undefined) break;
        loop.push(v);
        v = next;
        if (v === first) break;
      }
      loops.push(loop);
    }
  }
  return loops;
}
