import { edgesOf, edgeValence, Groups } from '../../mesh/connectivity';
import { faceCount, type PolyMesh, triangleCount } from '../../mesh/polymesh';
import { checkpoint, QUIET, type Task } from '../../task';
import type { Flattened } from '../charts';
import { estimate, type FixedPlace, type PackIsland, type PackOptions } from './pack';
import { shapeOf } from './shape';

/** A part laid flat, what its islands are weighted by, and which may be divided. */
export interface Divisible {
  mesh: PolyMesh;
  laid: Flattened;
  weights: Float64Array;
  /** Islands that stay in one piece: they carry print. */
  whole?: Uint8Array;
  /** The size of each island, tile per weighted mm, where that is said; NaN where it isn’t. */
  scales?: Float64Array;
  /** Where its islands lie already, as a file had them. */
  lies?: FixedPlace[];
}

/** How full a tile would be that is worth aiming at: islands longer than its side are folded into rows. */
const AIM = 0.72;
/** What another island must win, as a share of the tile. */
const WORTH = 0.04;
const MOST_TRIES = 16;
/** An island so many times as long as wide is long; one that leaves this share of its box empty is no good neighbour. */
const LONG = 1.8;
const EMPTY = 0.35;

/**
 * Each island’s triangles at its weight, part by part.
 *
 * @param known those of a part’s first islands that are there already, where they are
 */
export function islandsOf(parts: readonly Divisible[], known: readonly (readonly (PackIsland | null)[])[] = []): PackIsland[] {
  return parts.flatMap(({ mesh, laid, weights, scales }, p) => {
    const counts = new Uint32Array(laid.islands);
    for (let t = 0; t < triangleCount(mesh); t++) counts[laid.island[mesh.triangleFace[t]]]++;
    const lists = Array.from(counts, (n, i) => known[p]?.[i]?.triangles ?? new Float64Array(6 * n));
    counts.fill(0);
    for (let t = 0; t < triangleCount(mesh); t++) {
      const i = laid.island[mesh.triangleFace[t]];
      if (known[p]?.[i]) continue;
      const at = 6 * counts[i]++;
      for (let k = 0; k < 3; k++) {
        const c = 2 * mesh.triangles[3 * t + k];
        lists[i][at + 2 * k] = laid.flat[c] * weights[i];
        lists[i][at + 2 * k + 1] = laid.flat[c + 1] * weights[i];
      }
    }
    return lists.map((triangles, i) => ({ triangles, ...(scales && scales[i] > 0 && { scale: scales[i] }) }));
  });
}

/**
 * Divides long islands across, along edges they have, where that fills the tile: first all that are longer than a full tile’s side,
 * then one after the other as long as each wins enough. What lies flat stays as it lies; only where islands end changes.
 *
 * @returns the parts; those that nothing was won by are the ones given
 */
export function divide(parts: readonly Divisible[], options: PackOptions, task: Task = QUIET): readonly Divisible[] {
  let best = parts;
  let islands = islandsOf(best);
  let { filled, at: near } = estimate(islands, options);
  const areas = islands.reduce((s, { triangles }) => s + shapeOf(triangles).area, 0);
  const aim = Math.sqrt(areas / AIM) * (1 - options.padding / options.size);
  const attempt = (many: (length: number, i: number) => number): boolean => {
    checkpoint(task);
    const lengths = islands.map((i) => shapeOf(i.triangles).box()[0]);
    let at = 0;
    const known: (PackIsland | null)[][] = [];
    const next = best.map((p) => {
      const own = lengths.slice(at, at + p.laid.islands);
      const pieces = own.map((length, i) => (p.whole?.[i] ? 1 : many(length, at + i)));
      known.push(pieces.map((n, i) => (n > 1 ? null : islands[at + i])));
      at += p.laid.islands;
      return pieces.some((n) => n > 1) ? withPieces(p, pieces) : p;
    });
    const more = next.reduce((s, p, i) => s + p.laid.islands - best[i].laid.islands, 0);
    if (more === 0) return false;
    const made = islandsOf(next, known);
    const now = estimate(made, options, near);
    if (now.filled - filled < WORTH * Math.min(more, 8)) return false;
    [best, islands, filled, near] = [next, made, now.filled, now.at];
    return true;
  };
  if (filled < AIM) attempt((length) => Math.ceil(length / aim));
  for (let tries = 0; tries < MOST_TRIES && filled < AIM + 0.08; tries++) {
    const boxes = islands.map((i) => shapeOf(i.triangles).box());
    const lengths = boxes.map(([long]) => long);
    const idle = islands.map((i, k) => boxes[k][0] * boxes[k][1] - shapeOf(i.triangles).area);
    const most = (of: readonly number[]) => of.map((_, i) => i).sort((a, b) => of[b] - of[a]);
    const order = most(lengths);
    let won = false;
    // What leaves most of its box empty, then what is longest.
    for (const i of new Set([...most(idle).slice(0, 3), ...order.slice(0, 2)])) {
      // A piece that is neither long nor leaves its box empty stays whole.
      if (boxes[i][0] < LONG * boxes[i][1] && idle[i] < EMPTY * boxes[i][0] * boxes[i][1]) continue;
      won = attempt((_, j) => (j === i ? 2 : 1));
      if (won || ++tries >= MOST_TRIES) break;
    }
    // The longest ones together: while one of them is left as it is, none of the others helps.
    if (!won && !attempt((length) => (length > 0.75 * lengths[order[0]] ? 2 : 1))) break;
    task.progress(tries / MOST_TRIES, 'dividing islands');
  }
  return best;
}

/** A part some of whose islands are cut into so many pieces across their length, as far as they have edges to be cut along. */
function withPieces(part: Divisible, pieces: readonly number[]): Divisible {
  const { mesh, laid, weights, scales, whole } = part;
  const island = laid.island.slice();
  const faces: number[][] = pieces.map(() => []);
  for (let f = 0; f < faceCount(mesh); f++) if (pieces[island[f]] > 1) faces[island[f]].push(f);
  const beside = neighbours(mesh, laid);
  const method = [...laid.method];
  const heavy = [...weights];
  const sizes = scales && [...scales];
  for (const [i, list] of faces.entries()) {
    if (pieces[i] < 2 || list.length < 2) continue;
    for (const piece of across(mesh, laid.flat, list, pieces[i], beside).slice(1)) {
      for (const f of piece) island[f] = method.length;
      method.push(method[i]);
      heavy.push(heavy[i]);
      sizes?.push(sizes[i]);
    }
  }
  const kept = new Uint8Array(method.length);
  if (whole) kept.set(whole);
  return {
    ...part,
    laid: { ...laid, island, islands: method.length, method },
    weights: Float64Array.from(heavy),
    ...(sizes && { scales: Float64Array.from(sizes) }),
    whole: kept,
  };
}

interface Neighbours {
  /** Face → sides: the face across and how long the edge is, where both lie side by side in the layout. */
  start: Uint32Array;
  face: Int32Array;
  length: Float64Array;
}

function neighbours(mesh: PolyMesh, { island, flat }: Flattened): Neighbours {
  const edges = edgesOf(mesh);
  const pairs: [number, number, number][] = [];
  const start = new Uint32Array(faceCount(mesh) + 1);
  const near = (c: number, d: number) => Math.abs(flat[2 * c] - flat[2 * d]) + Math.abs(flat[2 * c + 1] - flat[2 * d + 1]) < 1e-6;
  for (let e = 0; e < edges.count; e++) {
    if (edgeValence(edges, e) !== 2) continue;
    const [a, b] = [edges.corners[edges.start[e]], edges.corners[edges.start[e] + 1]];
    const [f, g] = [edges.faceOf[a], edges.faceOf[b]];
    if (island[f] !== island[g] || !near(a, edges.next[b]) || !near(edges.next[a], b)) continue;
    const n = edges.next[a];
    pairs.push([f, g, Math.hypot(flat[2 * a] - flat[2 * n], flat[2 * a + 1] - flat[2 * n + 1])]);
    start[f + 1]++;
    start[g + 1]++;
  }
  for (let f = 0; f < faceCount(mesh); f++) start[f + 1] += start[f];
  const fill = start.slice();
  const face = new Int32Array(2 * pairs.length);
  const length = new Float64Array(2 * pairs.length);
  for (const [f, g, l] of pairs) {
    face[fill[f]] = g;
    length[fill[f]++] = l;
    face[fill[g]] = f;
    length[fill[g]++] = l;
  }
  return { start, face, length };
}

/** Faces of one island in pieces of about equal length along it, each of them hanging together; as many as can be had. */
function across(mesh: PolyMesh, flat: Float64Array, faces: readonly number[], pieces: number, beside: Neighbours): number[][] {
  if (pieces < 2) return [[...faces]];
  const main = direction(mesh, flat, faces);
  const halves = halved(mesh, flat, faces, pieces, main, beside) ?? halved(mesh, flat, faces, pieces, [-main[1], main[0]], beside);
  if (!halves) return [[...faces]];
  const left = Math.floor(pieces / 2);
  return [...across(mesh, flat, halves[0], left, beside), ...across(mesh, flat, halves[1], pieces - left, beside)];
}

/** Two pieces of an island, cut across a direction where it is to be cut into so many; null where neither would hang together. */
function halved(
  mesh: PolyMesh,
  flat: Float64Array,
  faces: readonly number[],
  pieces: number,
  [dx, dy]: [number, number],
  beside: Neighbours,
): [number[], number[]] | null {
  const along = new Map<number, number>();
  let [low, high] = [Infinity, -Infinity];
  for (const f of faces) {
    const [from, to] = [mesh.faceStart[f], mesh.faceStart[f + 1]];
    let s = 0;
    for (let c = from; c < to; c++) {
      const x = flat[2 * c] * dx + flat[2 * c + 1] * dy;
      s += x / (to - from);
      low = Math.min(low, x);
      high = Math.max(high, x);
    }
    along.set(f, s);
  }
  const left = Math.floor(pieces / 2);
  const wanted = low + ((high - low) * left) / pieces;
  const places = [...new Set([...along.values()].sort((a, b) => a - b))];
  // Between any two neighbouring centres there is one cut: the shortest one near where it is wanted.
  let best: { cost: number; halves: [number[], number[]] } | null = null;
  const near = places
    .slice(1)
    .map((x, i) => (x + places[i]) / 2)
    .filter((x) => Math.abs(x - wanted) < 0.16 * (high - low))
    .sort((a, b) => Math.abs(a - wanted) - Math.abs(b - wanted))
    .slice(0, 12);
  for (const at of near) {
    const side = (f: number) => (along.get(f) as number) < at;
    let seam = 0;
    for (const f of faces)
      for (let p = beside.start[f]; p < beside.start[f + 1]; p++) if (side(f) && !side(beside.face[p])) seam += beside.length[p];
    const cost = seam * (1 + (2 * Math.abs(at - wanted)) / (high - low));
    if (best && cost >= best.cost * (1 - 1e-9)) continue;
    const halves: [number[], number[]] = [faces.filter(side), faces.filter((f) => !side(f))];
    if (halves.every((h) => together(h, beside))) best = { cost, halves };
  }
  return best?.halves ?? null;
}

/** The direction in which faces lie farthest apart: the main axis of their corners. */
function direction(mesh: PolyMesh, flat: Float64Array, faces: readonly number[]): [number, number] {
  let [n, x, y, xx, xy, yy] = [0, 0, 0, 0, 0, 0];
  for (const f of faces)
    for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
      const [a, b] = [flat[2 * c], flat[2 * c + 1]];
      n++;
      x += a;
      y += b;
      xx += a * a;
      xy += a * b;
      yy += b * b;
    }
  const turn = Math.atan2(2 * (xy - (x * y) / n), xx - (x * x) / n - (yy - (y * y) / n)) / 2;
  return [Math.cos(turn), Math.sin(turn)];
}

function together(faces: readonly number[], { start, face }: Neighbours): boolean {
  if (faces.length === 0) return false;
  const numbers = new Map(faces.map((f, i) => [f, i]));
  const groups = new Groups(faces.length);
  let left = faces.length;
  for (const [f, i] of numbers)
    for (let p = start[f]; p < start[f + 1]; p++) {
      const j = numbers.get(face[p]);
      if (j === undefined || groups.find(i) === groups.find(j)) continue;
      groups.join(i, j);
      left--;
    }
  return left === 1;
}
