import { previousCorners } from './bevel/fans';
import { type Edges, edgesOf, edgeValence, twin } from './connectivity';
import { attribute, faceCount, type PolyMesh, vertexCount } from './polymesh';
import { type NewCorner, Rework } from './rework';

/** An edge loop that bears no shape: what taking it away would free, and how far the surface would move. */
export interface IdleLoop {
  /** Edges of the loop, in order. */
  edges: number[];
  vertices: number[];
  triangles: number;
  /** mm */
  moves: number;
}

/** Half-edges of a loop: on through vertices of four edges, straight across. */
function loopFrom(mesh: PolyMesh, edges: Edges, valence: Uint8Array, start: number): number[] | null {
  const forward = (c: number): number => {
    const v = mesh.faceVert[edges.next[c]];
    if (valence[v] !== 4) return -1;
    const t = twin(edges, edges.next[c]);
    return t < 0 ? -1 : edges.next[t];
  };
  const out = [start];
  for (let c = forward(start); c >= 0; c = forward(c)) {
    if (c === start) return out;
    out.push(c);
    if (out.length > mesh.faceVert.length) return null;
  }
  const back = twin(edges, start);
  if (back < 0) return out;
  const before: number[] = [];
  for (let c = forward(back); c >= 0; c = forward(c)) {
    const t = twin(edges, c);
    if (t < 0) return null;
    before.push(t);
    if (before.length > mesh.faceVert.length) return null;
  }
  return [...before.reverse(), ...out];
}

/**
 * Loops of edges whose removal moves the surface by less than a tolerance and changes no hard edge, seam or patch. Neighbours
 * are tried with those already found taken away, so that all of them can go together.
 *
 * @param within mm
 */
export function idleLoops(mesh: PolyMesh, within: number, edges: Edges = edgesOf(mesh)): IdleLoop[] {
  const previous = previousCorners(edges);
  const V = vertexCount(mesh);
  const valence = new Uint8Array(V);
  const rim = new Uint8Array(V);
  for (let e = 0; e < edges.count; e++) {
    for (const v of [edges.ends[2 * e], edges.ends[2 * e + 1]]) {
      valence[v] = Math.min(255, valence[v] + 1);
      if (edgeValence(edges, e) !== 2) rim[v] = 1;
    }
  }
  const hard = attribute(mesh, 'hard', 'corner')?.data;
  const seam = attribute(mesh, 'seam', 'corner')?.data;
  const patch = attribute(mesh, 'patch', 'face')?.data;
  const chart = attribute(mesh, 'chart', 'face')?.data;
  const marked = (c: number): boolean => {
    const t = twin(edges, c);
    return [hard, seam].some((a) => a && (a[c] || (t >= 0 && a[t])));
  };
  const sameSide = (c: number): boolean => {
    const t = twin(edges, c);
    if (t < 0) return false;
    const [f, g] = [edges.faceOf[c], edges.faceOf[t]];
    return f !== g && patch?.[f] === patch?.[g] && chart?.[f] === chart?.[g];
  };
  const gone = new Uint8Array(edges.count);
  const seen = new Uint8Array(edges.count);
  const out: IdleLoop[] = [];
  for (let c = 0; c < mesh.faceVert.length; c++) {
    if (seen[edges.ofCorner[c]]) continue;
    const loop = loopFrom(mesh, edges, valence, c);
    if (!loop) continue;
    for (const x of loop) seen[edges.ofCorner[x]] = 1;
    const quads = (x: number) =>
      [x, twin(edges, x)].every((y) => y >= 0 && mesh.faceStart[edges.faceOf[y] + 1] - mesh.faceStart[edges.faceOf[y]] === 4);
    if (!loop.every((x) => quads(x) && sameSide(x) && !marked(x))) continue;
    const vertices = new Set(loop.flatMap((x) => [mesh.faceVert[x], mesh.faceVert[edges.next[x]]]));
    const closed = mesh.faceVert[loop[0]] === mesh.faceVert[edges.next[loop[loop.length - 1]]] && loop.length > 2;
    // A loop ends at a rim, where its last vertex is one of three edges, or comes back to its start.
    if (!closed && [mesh.faceVert[loop[0]], mesh.faceVert[edges.next[loop[loop.length - 1]]]].some((v) => !(rim[v] && valence[v] === 3)))
      continue;
    const moves = movedBy(mesh, edges, loop, previous, gone);
    if (moves === null || moves > within) continue;
    for (const x of loop) gone[edges.ofCorner[x]] = 1;
    out.push({ edges: loop.map((x) => edges.ofCorner[x]), vertices: [...vertices], triangles: 2 * loop.length, moves });
  }
  return out;
}

/** How far vertices of a loop lie from the straight line between what stays on either side of them; null where nothing stays. */
function movedBy(mesh: PolyMesh, edges: Edges, loop: readonly number[], previous: Uint32Array, gone: Uint8Array): number | null {
  let worst = 0;
  const p = mesh.positions;
  const cross = (c: number, left: boolean): number[] | null => {
    // From a vertex of the loop across one side, over loops that go too, to the first that stays.
    const line: number[] = [];
    let at = left ? previous[c] : -1;
    if (!left) {
      const t = twin(edges, c);
      at = t < 0 ? -1 : edges.next[t];
    }
    for (let i = 0; i < 1000; i++) {
      if (at < 0) return null;
      line.push(left ? mesh.faceVert[at] : mesh.faceVert[edges.next[at]]);
      // The edge there that runs beside the loop: while it goes too, straight on.
      const beside = left ? previous[at] : edges.next[at];
      if (!gone[edges.ofCorner[beside]]) return line;
      const t = twin(edges, beside);
      at = t < 0 ? -1 : left ? previous[t] : edges.next[t];
    }
    return null;
  };
  for (const c of loop) {
    const [a, b] = [cross(c, true), cross(c, false)];
    if (!a || !b) return null;
    const [u, w] = [a[a.length - 1], b[b.length - 1]];
    if (u === w) return null;
    const d = [0, 1, 2].map((k) => p[3 * w + k] - p[3 * u + k]);
    const long = Math.hypot(...d) || 1;
    for (const v of [mesh.faceVert[c], ...a.slice(0, -1), ...b.slice(0, -1)]) {
      const e = [0, 1, 2].map((k) => p[3 * v + k] - p[3 * u + k]);
      worst = Math.max(worst, Math.hypot(e[1] * d[2] - e[2] * d[1], e[2] * d[0] - e[0] * d[2], e[0] * d[1] - e[1] * d[0]) / long);
    }
  }
  return worst;
}

/** The mesh without some loops: the quads beside each become one. */
export function withoutLoops(mesh: PolyMesh, loops: readonly IdleLoop[]): PolyMesh {
  if (loops.length === 0) return mesh;
  const edges = edgesOf(mesh);
  const goneEdge = new Uint8Array(edges.count);
  const goneVertex = new Uint8Array(vertexCount(mesh));
  for (const l of loops) {
    for (const e of l.edges) goneEdge[e] = 1;
    for (const v of l.vertices) goneVertex[v] = 1;
  }
  const rework = new Rework(mesh);
  const done = new Uint8Array(faceCount(mesh));
  for (let f = 0; f < faceCount(mesh); f++) {
    if (done[f]) continue;
    const first = corners(mesh, f).find((c) => !goneEdge[edges.ofCorner[c]]);
    if (first === undefined) continue;
    // Round the outside of everything joined to this face over edges that go.
    const ring: NewCorner[] = [];
    let c = first;
    do {
      done[edges.faceOf[c]] = 1;
      if (!goneVertex[mesh.faceVert[c]]) ring.push({ vertex: mesh.faceVert[c], from: c, edge: c });
      c = edges.next[c];
      while (goneEdge[edges.ofCorner[c]]) c = edges.next[twin(edges, c)];
    } while (c !== first);
    rework.face(ring, f);
  }
  return rework.build().mesh;
}
const corners = (mesh: PolyMesh, f: number): number[] =>
  Array.from({ length: mesh.faceStart[f + 1] - mesh.faceStart[f] }, (_, i) => mesh.faceStart[f] + i);
