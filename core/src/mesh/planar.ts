import earcut from 'earcut';
import type { Vec3 } from '../maths/vec3';
import { Groups } from './connectivity';

const key = (a: number, b: number): number => a * 0x2000000 + b;

/**
 * Joins triangles of one plane into as few faces as a mesh can hold: polygons without holes that touch themselves nowhere.
 *
 * A region without holes becomes its own outline. One with holes is cut along two edges of its triangles from each hole to
 * another loop, the second on the far side of the first, so that a plate with a window becomes two C-shaped halves.
 *
 * @param triangles three vertices each, all turning the same way, joined edge to edge
 * @returns loops of vertices, turning the same way
 */
export function joinTriangles(triangles: ArrayLike<number>): number[][] {
  const count = triangles.length / 3;
  const at = new Map<number, number>();
  for (let t = 0; t < count; t++) for (let k = 0; k < 3; k++) at.set(key(triangles[3 * t + k], triangles[3 * t + ((k + 1) % 3)]), t);
  const groups = new Groups(count);
  for (const [e, t] of at) {
    const other = at.get(key(e % 0x2000000, Math.floor(e / 0x2000000)));
    if (other !== undefined) groups.join(t, other);
  }
  const regions = new Map<number, number[]>();
  for (let t = 0; t < count; t++) {
    const root = groups.find(t);
    const list = regions.get(root);
    if (list) list.push(t);
    else regions.set(root, [t]);
  }
  return [...regions.values()].flatMap((list) => joinRegion(triangles, list));
}

function joinRegion(triangles: ArrayLike<number>, list: readonly number[]): number[][] {
  if (list.length === 1) return [[0, 1, 2].map((k) => triangles[3 * list[0] + k])];
  const loops = outlines(triangles, list, new Set());
  if (loops && loops.length === 1 && covers(list, loops)) return loops;
  const cuts = loops && bridges(triangles, list, loops);
  if (cuts) {
    const pieces = parted(triangles, list, cuts);
    const all = pieces.map((piece) => outlines(triangles, piece, cuts));
    if (all.every((l, i) => l?.length === 1 && covers(pieces[i], l))) return all.flatMap((l) => l as number[][]);
  }
  return grown(triangles, list);
}

/** The triangles of a disk without inner vertices: n − 2. */
const covers = (list: readonly number[], loops: readonly (readonly number[])[]): boolean => loops[0].length - 2 === list.length;

/** Loops of edges with a triangle of the list on one side only, or cut; null where a loop touches itself or another. */
function outlines(triangles: ArrayLike<number>, list: readonly number[], cuts: ReadonlySet<number>): number[][] | null {
  const inside = new Set<number>();
  for (const t of list) for (let k = 0; k < 3; k++) inside.add(key(triangles[3 * t + k], triangles[3 * t + ((k + 1) % 3)]));
  const after = new Map<number, number>();
  for (const e of inside) {
    const [a, b] = [Math.floor(e / 0x2000000), e % 0x2000000];
    if (inside.has(key(b, a)) && !cuts.has(e)) continue;
    if (after.has(a)) return null;
    after.set(a, b);
  }
  const loops: number[][] = [];
  while (after.size > 0) {
    const [first] = after.keys();
    const loop: number[] = [];
    let v: number | undefined = first;
    while (v !== undefined) {
      loop.push(v);
      const next: number | undefined = after.get(v);
      after.delete(v);
      if (next === first) break;
      if (next === undefined || !after.has(next)) return null;
      v = next;
    }
    loops.push(loop);
  }
  return loops;
}

/** Two inner edges from each loop but the first to another one, as far apart round it as there are; both ways round. */
function bridges(triangles: ArrayLike<number>, list: readonly number[], loops: readonly (readonly number[])[]): Set<number> | null {
  const loopOf = new Map<number, number>();
  const rank = new Map<number, number>();
  for (const [l, loop] of loops.entries())
    for (const [i, v] of loop.entries()) {
      loopOf.set(v, l);
      rank.set(v, i);
    }
  const edges: [number, number][] = [];
  for (const t of list)
    for (let k = 0; k < 3; k++) {
      const [a, b] = [triangles[3 * t + k], triangles[3 * t + ((k + 1) % 3)]];
      if (a < b && loopOf.get(a) !== loopOf.get(b)) edges.push([a, b]);
    }
  // Loops are joined one after the other, each to one that is joined already: nearest in the list of edges first.
  const joined = new Set([0]);
  const cuts = new Set<number>();
  const taken = new Set<number>();
  while (joined.size < loops.length) {
    const options = new Map<number, [hole: number, other: number][]>();
    for (const [a, b] of edges) {
      const [la, lb] = [loopOf.get(a) ?? -1, loopOf.get(b) ?? -1];
      if (joined.has(la) === joined.has(lb)) continue;
      const [hole, other] = joined.has(la) ? [b, a] : [a, b];
      const l = loopOf.get(hole) as number;
      options.set(l, [...(options.get(l) ?? []), [hole, other]]);
    }
    const next = [...options].sort((x, y) => y[1].length - x[1].length)[0];
    if (!next) return null;
    const [l, spokes] = next;
    const n = loops[l].length;
    let best: { far: number; pair: [number, number][] } | null = null;
    const free = spokes.filter(([h, o]) => !taken.has(h) && !taken.has(o));
    for (const p of free)
      for (const q of free) {
        if (p[0] === q[0] || p[1] === q[1]) continue;
        const d = Math.abs((rank.get(p[0]) as number) - (rank.get(q[0]) as number));
        const far = Math.min(d, n - d);
        if (!best || far > best.far) best = { far, pair: [p, q] };
      }
    if (!best) return null;
    for (const [h, o] of best.pair) {
      cuts.add(key(h, o)).add(key(o, h));
      taken.add(h).add(o);
    }
    joined.add(l);
  }
  return cuts;
}

function parted(triangles: ArrayLike<number>, list: readonly number[], cuts: ReadonlySet<number>): number[][] {
  const at = new Map<number, number>();
  for (const [i, t] of list.entries()) for (let k = 0; k < 3; k++) at.set(key(triangles[3 * t + k], triangles[3 * t + ((k + 1) % 3)]), i);
  const groups = new Groups(list.length);
  for (const [e, i] of at) {
    if (cuts.has(e)) continue;
    const other = at.get(key(e % 0x2000000, Math.floor(e / 0x2000000)));
    if (other !== undefined) groups.join(i, other);
  }
  const pieces = new Map<number, number[]>();
  for (const [i, t] of list.entries()) {
    const root = groups.find(i);
    const piece = pieces.get(root);
    if (piece) piece.push(t);
    else pieces.set(root, [t]);
  }
  return [...pieces.values()];
}

/** Polygons grown triangle by triangle as long as they stay simple: always possible, seldom the fewest. */
function grown(triangles: ArrayLike<number>, list: readonly number[]): number[][] {
  const at = new Map<number, number>();
  for (const t of list) for (let k = 0; k < 3; k++) at.set(key(triangles[3 * t + k], triangles[3 * t + ((k + 1) % 3)]), t);
  const left = new Set(list);
  const out: number[][] = [];
  for (const first of list) {
    if (!left.delete(first)) continue;
    const polygon = [0, 1, 2].map((k) => triangles[3 * first + k]);
    const has = new Set(polygon);
    for (let i = 0; i < polygon.length; ) {
      const [a, b] = [polygon[i], polygon[(i + 1) % polygon.length]];
      const t = at.get(key(b, a));
      const apex =
        t === undefined || !left.has(t) ? -1 : ([0, 1, 2].map((k) => triangles[3 * t + k]).find((v) => v !== a && v !== b) ?? -1);
      if (t === undefined || apex < 0 || has.has(apex)) {
        i++;
        continue;
      }
      left.delete(t);
      has.add(apex);
      polygon.splice(i + 1, 0, apex);
    }
    out.push(polygon);
  }
  return out;
}

/** Two directions in a plane that make a right-handed frame with its normal. */
export function frameOf(normal: Vec3): { u: Vec3; v: Vec3 } {
  const helper: Vec3 = Math.abs(normal[1]) < 0.9 ? [0, 1, 0] : [0, 0, -1];
  const raw: Vec3 = [
    helper[1] * normal[2] - helper[2] * normal[1],
    helper[2] * normal[0] - helper[0] * normal[2],
    helper[0] * normal[1] - helper[1] * normal[0],
  ];
  const l = Math.hypot(...raw);
  const u: Vec3 = [raw[0] / l, raw[1] / l, raw[2] / l];
  return { u, v: [normal[1] * u[2] - normal[2] * u[1], normal[2] * u[0] - normal[0] * u[2], normal[0] * u[1] - normal[1] * u[0]] };
}

/** Twice the signed area of a loop in the plane: positive counter-clockwise. */
export function doubleArea(loop: readonly (readonly [number, number])[]): number {
  let sum = 0;
  for (let i = 0; i < loop.length; i++) {
    const [p, q] = [loop[i], loop[(i + 1) % loop.length]];
    sum += p[0] * q[1] - q[0] * p[1];
  }
  return sum;
}

/** Whether a point of the plane lies inside a closed outline, by the even–odd rule. */
export function isInside([x, y]: readonly [number, number], loop: readonly (readonly [number, number])[]): boolean {
  let odd = false;
  for (let i = 0, j = loop.length - 1; i < loop.length; j = i++) {
    const [a, b] = [loop[i], loop[j]];
    if (a[1] > y !== b[1] > y && x < ((b[0] - a[0]) * (y - a[1])) / (b[1] - a[1]) + a[0]) odd = !odd;
  }
  return odd;
}

/**
 * Faces that fill loops of a plane: outlines run counter-clockwise, holes clockwise; each hole belongs to the smallest outline
 * round it.
 *
 * @param at place of vertex v in the plane
 * @returns loops of vertices, counter-clockwise
 */
export function fillLoops(loops: readonly (readonly number[])[], at: (v: number) => [number, number]): number[][] {
  const laid = loops.map((loop) => loop.map(at));
  const areas = laid.map(doubleArea);
  const out: number[][] = [];
  for (const [i, outer] of loops.entries()) {
    if (areas[i] <= 0) continue;
    const holes = loops.filter((_, h) => {
      if (areas[h] >= 0 || !isInside(laid[h][0], laid[i])) return false;
      // The smallest outline round it is its own.
      return !loops.some((__, j) => j !== i && areas[j] > 0 && areas[j] < areas[i] && isInside(laid[h][0], laid[j]));
    });
    if (holes.length === 0) {
      out.push([...outer]);
      continue;
    }
    // Points in line with their neighbours are left out of the triangles and put back into the faces' sides.
    const between = new Map<number, number[]>();
    const bare = [outer, ...holes].map((l) => withoutStraight(l, at, between));
    const order = bare.flat();
    const starts: number[] = [];
    let n = bare[0].length;
    for (const h of bare.slice(1)) {
      starts.push(n);
      n += h.length;
    }
    const ears = earcut(order.flatMap(at), starts);
    for (const face of joinTriangles(ears.map((e) => order[e])))
      out.push(face.flatMap((v, k) => [v, ...(between.get(key(v, face[(k + 1) % face.length])) ?? [])]));
  }
  return out;
}

/** A loop without its points that lie on a straight line between their neighbours, which are noted by the side they lie on. */
function withoutStraight(loop: readonly number[], at: (v: number) => [number, number], between: Map<number, number[]>): number[] {
  const n = loop.length;
  const isCorner = (i: number): boolean => {
    const [a, b, c] = [loop[(i + n - 1) % n], loop[i], loop[(i + 1) % n]].map(at);
    const [d, e] = [
      [b[0] - a[0], b[1] - a[1]],
      [c[0] - b[0], c[1] - b[1]],
    ];
    const straight = Math.abs(d[0] * e[1] - d[1] * e[0]) < 1e-7 * Math.hypot(d[0], d[1]) * Math.hypot(e[0], e[1]);
    return !(straight && d[0] * e[0] + d[1] * e[1] > 0);
  };
  const corners = loop.flatMap((_, i) => (isCorner(i) ? [i] : []));
  if (corners.length < 3) return [...loop];
  for (const [k, i] of corners.entries()) {
    const j = corners[(k + 1) % corners.length];
    const inner: number[] = [];
    for (let x = (i + 1) % n; x !== j; x = (x + 1) % n) inner.push(loop[x]);
    if (inner.length > 0) between.set(key(loop[i], loop[j]), inner);
  }
  return corners.map((i) => loop[i]);
}
