import { type Edges, edgesOf } from './connectivity';
import { edgeTurns, vertexCurvature } from './curvature';
import { moved } from './deform';
import { faceNormals, hardEdges } from './normals';
import { faceCount, type PolyMesh, triangleCount, vertexCount } from './polymesh';

/** A surface made fair, and what that came to. */
export interface Faired {
  mesh: PolyMesh;
  /** Farthest any vertex moved, mm. */
  movedMm: number;
  /** Vertices that may move. */
  free: number;
  /** Largest step of mean curvature from one vertex to the next, 1/mm. */
  stepBefore: number;
  stepAfter: number;
  /** Sharpest turn over an edge that isn't hard, radians. */
  turnBefore: number;
  turnAfter: number;
}

const ROUNDS = 800;
/** Weights of nearly degenerate triangles are kept above this, so that the energy stays convex. */
const LEAST = 1e-3;

/**
 * Makes a surface fair: its vertices move along their normals, none farther than a tolerance, so that mean curvature changes as little as
 * it can from one to the next. A cylinder and a sphere are fair already and stay; a kink is spread over its surroundings.
 *
 * Minimises Σ w·(hᵢ − hⱼ)² over neighbours, after Moreton & Séquin 1992 (*Functional optimization for fair surface design*, variation of
 * curvature), with h = H + ½·Δd to first order, Δ by cotangents (Meyer et al. 2003), |d| ≤ tolerance by projection, accelerated
 * (Beck & Teboulle 2009).
 *
 * @param inside 1 for every face that may change; vertices on its border, on hard edges and on rims stay
 * @param toleranceMm farthest any vertex may move
 */
export function fair(mesh: PolyMesh, inside: Uint8Array, toleranceMm: number): Faired {
  const n = vertexCount(mesh);
  const edges = edgesOf(mesh);
  const hard = hardEdges(mesh, {}, edges);
  const { mean, area } = vertexCurvature(mesh, edges);
  const stays = new Uint8Array(n);
  for (let e = 0; e < edges.count; e++) if (hard[e]) stays[edges.ends[2 * e]] = stays[edges.ends[2 * e + 1]] = 1;
  // Curvature at a hard edge is the edge's own: it takes no part.
  const counts = Uint8Array.from(mean, (h, v) => (stays[v] || !Number.isFinite(h) || !(area[v] > 0) ? 0 : 1));
  const free = Uint8Array.from(counts);
  for (let f = 0; f < faceCount(mesh); f++)
    if (!inside[f]) for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) free[mesh.faceVert[c]] = 0;
  const freeCount = free.reduce((s, x) => s + x, 0);
  const before = measured(mesh, edges, hard, counts, mean, inside);
  const still: Faired = { mesh, movedMm: 0, free: freeCount, ...before, stepAfter: before.stepBefore, turnAfter: before.turnBefore };
  if (freeCount === 0 || !(toleranceMm > 0)) return still;

  const { from, to, weight } = cotangents(mesh);
  const normals = outward(mesh);
  const h = new Float64Array(n);
  const q = new Float64Array(n);
  /** Adds half the Laplacian of d to curvature. */
  const curvatureOf = (d: Float64Array, base: Float64Array | null): void => {
    for (let v = 0; v < n; v++) h[v] = 0;
    for (let k = 0; k < from.length; k++) {
      const flow = weight[k] * (d[from[k]] - d[to[k]]);
      h[from[k]] += flow;
      h[to[k]] -= flow;
    }
    for (let v = 0; v < n; v++) h[v] = counts[v] ? h[v] / (2 * area[v]) + (base ? base[v] : 0) : 0;
  };
  const gradient = (d: Float64Array, base: Float64Array | null, out: Float64Array): void => {
    curvatureOf(d, base);
    q.fill(0);
    for (let k = 0; k < from.length; k++) {
      const [a, b] = [from[k], to[k]];
      if (!counts[a] || !counts[b]) continue;
      const step = weight[k] * (h[a] - h[b]);
      q[a] += step;
      q[b] -= step;
    }
    for (let v = 0; v < n; v++) q[v] = counts[v] ? q[v] / (2 * area[v]) : 0;
    out.fill(0);
    for (let k = 0; k < from.length; k++) {
      const flow = weight[k] * (q[from[k]] - q[to[k]]);
      out[from[k]] += flow;
      out[to[k]] -= flow;
    }
    for (let v = 0; v < n; v++) if (!free[v]) out[v] = 0;
  };
  // The largest curvature of the energy, by power iteration.
  const g = new Float64Array(n);
  let x = Float64Array.from(free, (f, v) => (f ? Math.sin(12.9898 * (v + 1)) : 0));
  let most = 1;
  for (let k = 0; k < 30; k++) {
    const size = Math.sqrt(x.reduce((s, y) => s + y * y, 0)) || 1;
    for (let v = 0; v < n; v++) x[v] /= size;
    gradient(x, null, g);
    most = Math.sqrt(g.reduce((s, y) => s + y * y, 0)) || 1;
    x = Float64Array.from(g);
  }
  const step = 1 / (1.05 * most);
  let d = new Float64Array(n);
  let y = new Float64Array(n);
  let momentum = 1;
  for (let k = 0; k < ROUNDS; k++) {
    gradient(y, mean, g);
    const next = new Float64Array(n);
    let uphill = 0;
    for (let v = 0; v < n; v++) {
      if (!free[v]) continue;
      next[v] = Math.max(-toleranceMm, Math.min(toleranceMm, y[v] - step * g[v]));
      uphill += (y[v] - next[v]) * (next[v] - d[v]);
    }
    // Momentum that leads uphill is let go (O'Donoghue & Candès 2015).
    const grown = uphill > 0 ? 1 : (1 + Math.sqrt(1 + 4 * momentum * momentum)) / 2;
    const carry = uphill > 0 ? 0 : (momentum - 1) / grown;
    const ahead = new Float64Array(n);
    for (let v = 0; v < n; v++) ahead[v] = next[v] + carry * (next[v] - d[v]);
    [d, y, momentum] = [next, ahead, grown];
  }
  const out = moved(mesh, (p, v) => [p[0] + d[v] * normals[3 * v], p[1] + d[v] * normals[3 * v + 1], p[2] + d[v] * normals[3 * v + 2]]);
  const after = measured(out, edgesOf(out), hard, counts, vertexCurvature(out).mean, inside);
  // What was first order may not hold for a tolerance as large as the faces: nothing is made worse.
  if (after.stepBefore > before.stepBefore) return still;
  return {
    ...still,
    mesh: out,
    movedMm: d.reduce((m, v) => Math.max(m, Math.abs(v)), 0),
    stepAfter: after.stepBefore,
    turnAfter: after.turnBefore,
  };
}

function measured(
  mesh: PolyMesh,
  edges: Edges,
  hard: Uint8Array,
  counts: Uint8Array,
  mean: Float64Array,
  inside: Uint8Array,
): { stepBefore: number; turnBefore: number } {
  const turns = edgeTurns(mesh, faceNormals(mesh), edges);
  let [step, turn] = [0, 0];
  for (let e = 0; e < edges.count; e++) {
    const [a, b] = [edges.ends[2 * e], edges.ends[2 * e + 1]];
    if (hard[e] || !inside[edges.faceOf[edges.corners[edges.start[e]]]]) continue;
    if (counts[a] && counts[b]) step = Math.max(step, Math.abs(mean[a] - mean[b]));
    if (Number.isFinite(turns[e])) turn = Math.max(turn, Math.abs(turns[e]));
  }
  return { stepBefore: step, turnBefore: turn };
}

/** Every pair of neighbours with half the sum of the cotangents across from it. */
function cotangents(mesh: PolyMesh): { from: Uint32Array; to: Uint32Array; weight: Float64Array } {
  const n = vertexCount(mesh);
  const p = mesh.positions;
  const pairs = new Map<number, number>();
  for (let t = 0; t < triangleCount(mesh); t++) {
    const ids = [0, 1, 2].map((k) => mesh.faceVert[mesh.triangles[3 * t + k]]);
    for (let k = 0; k < 3; k++) {
      const [o, a, b] = [ids[k], ids[(k + 1) % 3], ids[(k + 2) % 3]];
      const u = [0, 1, 2].map((x) => p[3 * a + x] - p[3 * o + x]);
      const v = [0, 1, 2].map((x) => p[3 * b + x] - p[3 * o + x]);
      const dot = u[0] * v[0] + u[1] * v[1] + u[2] * v[2];
      const cross = Math.hypot(u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]);
      if (cross < 1e-15) continue;
      const key = Math.min(a, b) * n + Math.max(a, b);
      pairs.set(key, (pairs.get(key) ?? 0) + dot / cross / 2);
    }
  }
  const keys = [...pairs.keys()];
  return {
    from: Uint32Array.from(keys, (k) => Math.floor(k / n)),
    to: Uint32Array.from(keys, (k) => k % n),
    weight: Float64Array.from(keys, (k) => Math.max(LEAST, pairs.get(k) ?? 0)),
  };
}

/** Unit normals at vertices, weighted by area. */
function outward(mesh: PolyMesh): Float64Array {
  const p = mesh.positions;
  const out = new Float64Array(3 * vertexCount(mesh));
  for (let t = 0; t < triangleCount(mesh); t++) {
    const [a, b, c] = [0, 1, 2].map((k) => 3 * mesh.faceVert[mesh.triangles[3 * t + k]]);
    const u = [p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]];
    const v = [p[c] - p[a], p[c + 1] - p[a + 1], p[c + 2] - p[a + 2]];
    const m = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
    for (const x of [a, b, c]) for (let k = 0; k < 3; k++) out[x + k] += m[k];
  }
  for (let v = 0; v < out.length; v += 3) {
    const l = Math.hypot(out[v], out[v + 1], out[v + 2]) || 1;
    for (let k = 0; k < 3; k++) out[v + k] /= l;
  }
  return out;
}
