import type { Vec3 } from '../maths/vec3';
import { type PolyMesh, triangleCount } from './polymesh';
import { soupOf } from './soup';

/**
 * A tree of boxes over the triangles of a mesh, for questions about two meshes at once: which triangles cross, how near they
 * come. Node i has its box at `boxes[6 i …]`; a leaf holds `count[i]` triangles from `first[i]` of `order`, an inner node's
 * children stand at `first[i]` and `first[i] + 1`.
 */
export interface BoxTree {
  /** 9 numbers per triangle. */
  soup: Float64Array;
  boxes: Float64Array;
  first: Uint32Array;
  count: Uint32Array;
  order: Uint32Array;
}

const LEAF = 4;

/** Halves at the middle of the longest side of the triangles' centres; ties by number. */
export function boxTree(mesh: PolyMesh): BoxTree {
  const n = triangleCount(mesh);
  const soup = soupOf(mesh);
  const order = Uint32Array.from({ length: n }, (_, i) => i);
  const size = Math.max(1, 2 * n);
  const boxes = new Float64Array(6 * size);
  const first = new Uint32Array(size);
  const count = new Uint32Array(size);
  let nodes = 1;
  const stack: [node: number, from: number, to: number][] = [[0, 0, n]];
  while (stack.length > 0) {
    const [node, from, to] = stack.pop() as [number, number, number];
    const box = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
    const centres = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
    for (let i = from; i < to; i++) {
      const t = 9 * order[i];
      for (let k = 0; k < 3; k++) {
        const [a, b, c] = [soup[t + k], soup[t + 3 + k], soup[t + 6 + k]];
        box[k] = Math.min(box[k], a, b, c);
        box[3 + k] = Math.max(box[3 + k], a, b, c);
        const m = a + b + c;
        centres[k] = Math.min(centres[k], m);
        centres[3 + k] = Math.max(centres[3 + k], m);
      }
    }
    boxes.set(box, 6 * node);
    if (to - from <= LEAF) {
      first[node] = from;
      count[node] = to - from;
      continue;
    }
    const sides = [0, 1, 2].map((k) => centres[3 + k] - centres[k]);
    const k = sides.indexOf(Math.max(...sides));
    const middle = (centres[k] + centres[3 + k]) / 2;
    let m = from;
    for (let i = from; i < to; i++) {
      const t = 9 * order[i];
      if (soup[t + k] + soup[t + 3 + k] + soup[t + 6 + k] < middle) [order[i], order[m++]] = [order[m], order[i]];
    }
    if (m === from || m === to) m = (from + to) >> 1;
    first[node] = nodes;
    stack.push([nodes, from, m], [nodes + 1, m, to]);
    nodes += 2;
  }
  return { soup, boxes: boxes.slice(0, 6 * nodes), first: first.slice(0, nodes), count: count.slice(0, nodes), order };
}

/** Square of the distance between two boxes; 0 where they overlap. `dx, dy, dz` is what the second is moved by. */
function apart(a: BoxTree, i: number, b: BoxTree, j: number, move: Vec3): number {
  let sum = 0;
  for (let k = 0; k < 3; k++) {
    const d = Math.max(a.boxes[6 * i + k] - (b.boxes[6 * j + 3 + k] + move[k]), b.boxes[6 * j + k] + move[k] - a.boxes[6 * i + 3 + k], 0);
    sum += d * d;
  }
  return sum;
}
const volume = (t: BoxTree, i: number): number =>
  [0, 1, 2].reduce((s, k) => s + Math.max(0, t.boxes[6 * i + 3 + k] - t.boxes[6 * i + k]), 0);

/** Pairs of leaves whose boxes are no farther apart than `within()` says at the time, nearest box first where it matters. */
function visit(a: BoxTree, b: BoxTree, move: Vec3, within: () => number, leaf: (i: number, j: number) => boolean): void {
  if (a.order.length === 0 || b.order.length === 0) return;
  const stack: [number, number][] = [[0, 0]];
  while (stack.length > 0) {
    const [i, j] = stack.pop() as [number, number];
    const limit = within();
    if (apart(a, i, b, j, move) > limit) continue;
    const [leafA, leafB] = [a.count[i] > 0, b.count[j] > 0];
    if (leafA && leafB) {
      if (leaf(i, j)) return;
      continue;
    }
    const pairs: [number, number][] =
      leafB || (!leafA && volume(a, i) >= volume(b, j))
        ? [
            [a.first[i], j],
            [a.first[i] + 1, j],
          ]
        : [
            [i, b.first[j]],
            [i, b.first[j] + 1],
          ];
    const [p, q] = pairs.map(([x, y]) => apart(a, x, b, y, move));
    if (p < q) pairs.reverse();
    stack.push(...pairs);
  }
}

/** Two triangles that pass through each other. */
export interface Crossing {
  a: number;
  b: number;
  at: Vec3;
}

/**
 * Triangles of two meshes that cross: an edge of one passes through the inside of the other. Touching is not crossing.
 *
 * @param most after so many it stops
 */
export function crossings(a: BoxTree, b: BoxTree, most = Infinity, move: Vec3 = [0, 0, 0]): Crossing[] {
  const out: Crossing[] = [];
  visit(
    a,
    b,
    move,
    () => 0,
    (i, j) => {
      for (let x = a.first[i]; x < a.first[i] + a.count[i]; x++)
        for (let y = b.first[j]; y < b.first[j] + b.count[j]; y++) {
          const at = through(a.soup, 9 * a.order[x], b.soup, 9 * b.order[y], move);
          if (at) out.push({ a: a.order[x], b: b.order[y], at });
          if (out.length >= most) return true;
        }
      return false;
    },
  );
  return out;
}

/** Where an edge of either triangle passes through the inside of the other; null where none does. */
export function through(p: Float64Array, i: number, q: Float64Array, j: number, move: Vec3): Vec3 | null {
  for (let k = 0; k < 3; k++) {
    const hit =
      pierced(p, i + 3 * k, i + 3 * ((k + 1) % 3), [0, 0, 0], q, j, move) ??
      pierced(q, j + 3 * k, j + 3 * ((k + 1) % 3), move, p, i, [0, 0, 0]);
    if (hit) return hit;
  }
  return null;
}

/** Shares of an edge and of a triangle that count as its inside: touching at a corner or along a side is no crossing. */
const INSIDE = 1e-7;

function pierced(p: Float64Array, a: number, b: number, own: Vec3, q: Float64Array, t: number, move: Vec3): Vec3 | null {
  const at = (f: Float64Array, i: number, m: Vec3): Vec3 => [f[i] + m[0], f[i + 1] + m[1], f[i + 2] + m[2]];
  const [o, e] = [at(p, a, own), at(p, b, own)];
  const [u, v, w] = [at(q, t, move), at(q, t + 3, move), at(q, t + 6, move)];
  const d = [e[0] - o[0], e[1] - o[1], e[2] - o[2]];
  const e1 = [v[0] - u[0], v[1] - u[1], v[2] - u[2]];
  const e2 = [w[0] - u[0], w[1] - u[1], w[2] - u[2]];
  // Möller & Trumbore 1997.
  const h = [d[1] * e2[2] - d[2] * e2[1], d[2] * e2[0] - d[0] * e2[2], d[0] * e2[1] - d[1] * e2[0]];
  const det = e1[0] * h[0] + e1[1] * h[1] + e1[2] * h[2];
  const n = [e1[1] * e2[2] - e1[2] * e2[1], e1[2] * e2[0] - e1[0] * e2[2], e1[0] * e2[1] - e1[1] * e2[0]];
  // A triangle without area has no inside.
  if (Math.hypot(...n) < 1e-8 * (e1[0] ** 2 + e1[1] ** 2 + e1[2] ** 2 + e2[0] ** 2 + e2[1] ** 2 + e2[2] ** 2)) return null;
  if (!(Math.abs(det) > 1e-9 * Math.hypot(...d) * Math.hypot(...n))) return null;
  const s = [o[0] - u[0], o[1] - u[1], o[2] - u[2]];
  const x = (s[0] * h[0] + s[1] * h[1] + s[2] * h[2]) / det;
  if (x < INSIDE || x > 1 - INSIDE) return null;
  const c = [s[1] * e1[2] - s[2] * e1[1], s[2] * e1[0] - s[0] * e1[2], s[0] * e1[1] - s[1] * e1[0]];
  const y = (d[0] * c[0] + d[1] * c[1] + d[2] * c[2]) / det;
  if (y < INSIDE || x + y > 1 - INSIDE) return null;
  const r = (e2[0] * c[0] + e2[1] * c[1] + e2[2] * c[2]) / det;
  if (r < INSIDE || r > 1 - INSIDE) return null;
  return [o[0] + r * d[0], o[1] + r * d[1], o[2] + r * d[2]];
}

/** The nearest places of two meshes, one on each. */
export interface Nearest {
  distance: number;
  onA: Vec3;
  onB: Vec3;
}

/**
 * How near two surfaces come: between triangles that don't cross, the least of corner to face and edge to edge.
 *
 * @param within mm; farther apart than this is not looked into, and answered by null
 */
export function nearest(a: BoxTree, b: BoxTree, within = Infinity, move: Vec3 = [0, 0, 0]): Nearest | null {
  let best: Nearest | null = null;
  let limit = within * within;
  visit(
    a,
    b,
    move,
    () => limit,
    (i, j) => {
      for (let x = a.first[i]; x < a.first[i] + a.count[i]; x++)
        for (let y = b.first[j]; y < b.first[j] + b.count[j]; y++) {
          const [p, q] = [9 * a.order[x], 9 * b.order[y]];
          // Most triangles of two leaves are told apart by their boxes alone.
          const boxes = boxesApart(a.soup, p, b.soup, q, move);
          if (boxes > limit || (boxes === limit && best)) continue;
          const found = between(a.soup, p, b.soup, q, move, boxes === 0);
          if (found.distance * found.distance >= limit && best) continue;
          if (found.distance > within) continue;
          best = found;
          limit = found.distance * found.distance;
        }
      return limit === 0;
    },
  );
  return best;
}

/**
 * Where two surfaces come no farther apart than a distance: of every such pair of triangles the nearest places.
 *
 * @param most after so many it stops
 */
export function nearPlaces(a: BoxTree, b: BoxTree, within: number, most = Infinity): Nearest[] {
  const out: Nearest[] = [];
  const still: Vec3 = [0, 0, 0];
  const limit = within * within;
  visit(
    a,
    b,
    still,
    () => limit,
    (i, j) => {
      for (let x = a.first[i]; x < a.first[i] + a.count[i]; x++)
        for (let y = b.first[j]; y < b.first[j] + b.count[j]; y++) {
          const [p, q] = [9 * a.order[x], 9 * b.order[y]];
          const boxes = boxesApart(a.soup, p, b.soup, q, still);
          if (boxes > limit) continue;
          const found = between(a.soup, p, b.soup, q, still, boxes === 0);
          if (found.distance <= within) out.push(found);
          if (out.length >= most) return true;
        }
      return false;
    },
  );
  return out;
}

/** Square of the distance between the boxes of two triangles; 0 where they overlap. */
function boxesApart(p: Float64Array, i: number, q: Float64Array, j: number, move: Vec3): number {
  let sum = 0;
  for (let k = 0; k < 3; k++) {
    const [a, b, c] = [p[i + k], p[i + 3 + k], p[i + 6 + k]];
    const [d, e, f] = [q[j + k] + move[k], q[j + 3 + k] + move[k], q[j + 6 + k] + move[k]];
    const gap = Math.max(Math.min(a, b, c) - Math.max(d, e, f), Math.min(d, e, f) - Math.max(a, b, c));
    if (gap > 0) sum += gap * gap;
  }
  return sum;
}

/** @param mayCross whether their boxes overlap: only then one can pass through the other */
function between(p: Float64Array, i: number, q: Float64Array, j: number, move: Vec3, mayCross: boolean): Nearest {
  const P = [0, 3, 6].map((k): Vec3 => [p[i + k], p[i + k + 1], p[i + k + 2]]);
  const Q = [0, 3, 6].map((k): Vec3 => [q[j + k] + move[0], q[j + k + 1] + move[1], q[j + k + 2] + move[2]]);
  const crossed = mayCross ? through(p, i, q, j, move) : null;
  if (crossed) return { distance: 0, onA: crossed, onB: crossed };
  let least = Infinity;
  let [nearA, nearB] = [P[0], Q[0]];
  const take = (onA: Vec3, onB: Vec3) => {
    const squared = (onA[0] - onB[0]) ** 2 + (onA[1] - onB[1]) ** 2 + (onA[2] - onB[2]) ** 2;
    if (squared >= least) return;
    least = squared;
    nearA = onA;
    nearB = onB;
  };
  for (const x of P) take(x, nearestOnTriangle(x, Q[0], Q[1], Q[2]));
  for (const x of Q) take(nearestOnTriangle(x, P[0], P[1], P[2]), x);
  for (let k = 0; k < 3; k++)
    for (let l = 0; l < 3; l++) {
      const [x, y] = betweenEdges(P[k], P[(k + 1) % 3], Q[l], Q[(l + 1) % 3]);
      take(x, y);
    }
  return { distance: Math.sqrt(least), onA: nearA, onB: nearB };
}

const dot = (a: Vec3, b: Vec3) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const sub = (a: Vec3, b: Vec3): Vec3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const step = (a: Vec3, d: Vec3, t: number): Vec3 => [a[0] + t * d[0], a[1] + t * d[1], a[2] + t * d[2]];
const clamp = (t: number) => Math.min(1, Math.max(0, t));

/** The point of a triangle nearest to p (Ericson, Real-Time Collision Detection, 5.1.5). */
export function nearestOnTriangle(p: Vec3, a: Vec3, b: Vec3, c: Vec3): Vec3 {
  const [ab, ac, ap] = [sub(b, a), sub(c, a), sub(p, a)];
  const [d1, d2] = [dot(ab, ap), dot(ac, ap)];
  if (d1 <= 0 && d2 <= 0) return a;
  const bp = sub(p, b);
  const [d3, d4] = [dot(ab, bp), dot(ac, bp)];
  if (d3 >= 0 && d4 <= d3) return b;
  const vc = d1 * d4 - d3 * d2;
  if (vc <= 0 && d1 >= 0 && d3 <= 0) return step(a, ab, d1 / (d1 - d3 || 1));
  const cp = sub(p, c);
  const [d5, d6] = [dot(ab, cp), dot(ac, cp)];
  if (d6 >= 0 && d5 <= d6) return c;
  const vb = d5 * d2 - d1 * d6;
  if (vb <= 0 && d2 >= 0 && d6 <= 0) return step(a, ac, d2 / (d2 - d6 || 1));
  const va = d3 * d6 - d5 * d4;
  if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) return step(b, sub(c, b), (d4 - d3) / (d4 - d3 + (d5 - d6) || 1));
  const k = 1 / (va + vb + vc || 1);
  return step(step(a, ab, vb * k), ac, vc * k);
}

/** The nearest points of two edges (Ericson, 5.1.9). */
function betweenEdges(p1: Vec3, q1: Vec3, p2: Vec3, q2: Vec3): [Vec3, Vec3] {
  const [d1, d2, r] = [sub(q1, p1), sub(q2, p2), sub(p1, p2)];
  const [a, e, f] = [dot(d1, d1), dot(d2, d2), dot(d2, r)];
  if (a < 1e-24 || e < 1e-24) return [p1, p2];
  const c = dot(d1, r);
  const b = dot(d1, d2);
  const det = a * e - b * b;
  let s = det > 1e-18 * a * e ? clamp((b * f - c * e) / det) : 0;
  let t = (b * s + f) / e;
  if (t < 0) {
    t = 0;
    s = clamp(-c / a);
  } else if (t > 1) {
    t = 1;
    s = clamp((b - c) / a);
  }
  return [step(p1, d1, s), step(p2, d2, t)];
}
