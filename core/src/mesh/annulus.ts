import { add, distance, scale, sub, type Vec3 } from '../maths/vec3';

/** A closed row of vertices: their numbers, and where they are. */
export interface Loop {
  vertices: readonly number[];
  places: readonly Vec3[];
}

/** Faces between two loops, and what they needed between. */
export interface Annulus {
  /** Corners in order, as the outer loop turns. */
  faces: number[][];
  /** New vertices in between, free to be moved: number → the ones an edge joins it to. */
  free: Map<number, Set<number>>;
  triangles: number;
}

/** An edge of the loop with fewer stands before so many of the other. */
const [ONE, TWO, THREE] = [1, 2, 3];

/**
 * Fills the ring between two loops that turn the same way with quads alone, whatever their counts, as long as both are even or both odd:
 * an edge that stands before three others takes two vertices between (four quads for one), the others one quad each. Where counts differ
 * by more than threefold loops are put between. Counts that differ by an odd number need one triangle, as the edges of any quads come in
 * pairs round a ring.
 *
 * @param put makes a vertex
 * @param choice 0 for the way with the shortest spokes in every ring, 1 for the one after it …
 */
export function annulus(outer: Loop, inner: Loop, put: (place: Vec3) => number, choice = 0): Annulus {
  const out: Annulus = { faces: [], free: new Map(), triangles: 0 };
  const counts = countsBetween(outer.vertices.length, inner.vertices.length);
  const start = alignedStart(outer.places, inner.places);
  const turned: Loop = { vertices: rotated(inner.vertices, start), places: rotated(inner.places, start) };
  const loops = counts.map((count, i): Loop => {
    if (i === 0) return outer;
    if (i === counts.length - 1) return turned;
    const share = i / (counts.length - 1);
    const [a, b] = [resampled(outer.places, count), resampled(turned.places, count)];
    const places = a.map((p, k) => add(scale(p, 1 - share), scale(b[k], share)));
    return { vertices: places.map(put), places };
  });
  for (const l of loops.slice(1, -1)) for (const v of l.vertices) out.free.set(v, new Set());
  for (let i = 0; i + 1 < loops.length; i++) ring(loops[i], loops[i + 1], put, choice, out);
  for (const face of out.faces)
    for (const [k, v] of face.entries()) {
      const next = face[(k + 1) % face.length];
      out.free.get(v)?.add(next);
      out.free.get(next)?.add(v);
    }
  return out;
}

/** Counts from one to another, each at most three times the last, all even or all odd as the last one is. */
function countsBetween(from: number, to: number): number[] {
  const [few, many] = [Math.min(from, to), Math.max(from, to)];
  const levels = Math.max(1, Math.ceil(Math.log(many / few) / Math.log(3) - 1e-9));
  const between = Array.from({ length: levels - 1 }, (_, i) => {
    const n = Math.round(few * (many / few) ** ((i + 1) / levels));
    return n + ((n - many) & 1);
  });
  const rising = [few, ...between, many];
  return from <= to ? rising : rising.reverse();
}

const rotated = <T>(list: readonly T[], by: number): T[] => list.map((_, i) => list[(i + by) % list.length]);

/** Which place of the inner loop stands before the first of the outer one, seen from their middle. */
function alignedStart(outer: readonly Vec3[], inner: readonly Vec3[]): number {
  const samples = 24;
  const a = resampled(outer, samples);
  let best = { start: 0, cost: Infinity };
  for (let start = 0; start < inner.length; start++) {
    const b = resampled(rotated(inner, start), samples);
    const cost = a.reduce((s, p, i) => s + distance(p, b[i]) ** 2, 0);
    if (cost < best.cost) best = { start, cost };
  }
  return best.start;
}

/** So many places evenly along a closed row, the first where it begins. */
function resampled(places: readonly Vec3[], count: number): Vec3[] {
  const far = places.map((p, i) => distance(p, places[(i + 1) % places.length]));
  const whole = far.reduce((s, x) => s + x, 0);
  const out: Vec3[] = [];
  let [i, passed] = [0, 0];
  for (let k = 0; k < count; k++) {
    const at = (whole * k) / count;
    while (i < places.length - 1 && passed + far[i] < at) passed += far[i++];
    const t = far[i] > 0 ? (at - passed) / far[i] : 0;
    out.push(add(places[i], scale(sub(places[(i + 1) % places.length], places[i]), Math.min(1, t))));
  }
  return out;
}

/** One ring, counts at most three times apart. */
function ring(outer: Loop, inner: Loop, put: (place: Vec3) => number, choice: number, out: Annulus): void {
  const isRising = inner.vertices.length >= outer.vertices.length;
  const [few, many] = isRising ? [outer, inner] : [inner, outer];
  const ways = matched(few, many);
  const { shift, widths } = ways[Math.min(choice, ways.length - 1)];
  const n = many.vertices.length;
  const middle = (p: Vec3, q: Vec3, t: number): Vec3 => add(p, scale(sub(q, p), t));
  const free = (place: Vec3): number => {
    const v = put(place);
    out.free.set(v, new Set());
    return v;
  };
  let at = shift;
  for (const [i, width] of widths.entries()) {
    const next = (i + 1) % few.vertices.length;
    const [a, b] = [few.vertices[i], few.vertices[next]];
    const m = Array.from({ length: width + 1 }, (_, k) => (at + k) % n);
    const v = m.map((k) => many.vertices[k]);
    at += width;
    // As if the loop with fewer were the outer one; else all are turned round.
    const faces: number[][] = [];
    if (width === ONE) faces.push([a, b, v[1], v[0]]);
    else if (width === TWO) {
      faces.push([a, b, v[2], v[1]], [a, v[1], v[0]]);
      out.triangles++;
    } else {
      const [p, q] = [few.places[i], few.places[next]];
      const near = (t: number, k: number): number => free(middle(middle(p, q, t), many.places[m[k]], 0.5));
      const [c, d] = [near(0.3, 1), near(0.7, 2)];
      faces.push([a, b, d, c], [c, d, v[2], v[1]], [a, c, v[1], v[0]], [b, v[3], v[2], d]);
    }
    for (const face of faces) out.faces.push(isRising ? face : face.reverse());
  }
}

/**
 * Which vertex of the loop with more stands before each of the other: for every vertex that can stand before the first, of all ways to
 * give every edge one or three of theirs, and one edge two where the counts are odd against each other, the one with the shortest spokes.
 *
 * @returns the best first
 */
function matched(few: Loop, many: Loop): { shift: number; widths: number[] }[] {
  const [c, n] = [few.vertices.length, many.vertices.length];
  const odd = (n - c) & 1;
  const threes = (n - c - odd) / 2;
  const ways: { cost: number; shift: number; widths: number[] }[] = [];
  const spoke = (i: number, k: number): number => distance(few.places[i], many.places[k % n]) ** 2;
  // State: so many threes so far, and whether the two was taken; the way back is kept for each edge.
  const width = 2 * (threes + 1);
  for (let shift = 0; shift < n; shift++) {
    let cost = new Float64Array(width).fill(Infinity);
    cost[0] = spoke(0, shift);
    const back: Uint8Array[] = [];
    for (let i = 0; i < c; i++) {
      const next = new Float64Array(width).fill(Infinity);
      const from = new Uint8Array(width);
      for (let s = 0; s < width; s++) {
        if (cost[s] === Infinity) continue;
        const [t, two] = [s >> 1, s & 1];
        const stand = shift + i + 2 * t + two;
        const go = (to: number, steps: number): void => {
          const total = cost[s] + (i + 1 < c ? spoke(i + 1, stand + steps) : 0);
          if (total < next[to]) {
            next[to] = total;
            from[to] = steps;
          }
        };
        go(s, ONE);
        if (t < threes) go(s + 2, THREE);
        if (odd && !two) go(s + 1, TWO);
      }
      back.push(from);
      cost = next;
    }
    const end = 2 * threes + odd;
    if (cost[end] === Infinity) continue;
    const widths: number[] = [];
    for (let i = c - 1, s = end; i >= 0; i--) {
      const steps = back[i][s];
      widths.unshift(steps);
      s -= steps === THREE ? 2 : steps === TWO ? 1 : 0;
    }
    ways.push({ cost: cost[end], shift, widths });
  }
  return ways.sort((p, q) => p.cost - q.cost || p.shift - q.shift);
}
