import { at, dot, type Vec3 } from '../maths/vec3';
import { edgesOf, twin } from '../mesh/connectivity';
import type { PolyMesh } from '../mesh/polymesh';

/** The outline of a wall, seen along it: a line or a ring of flats, with its length as that of the curve which its corners lie on. */
export interface Section {
  closed: boolean;
  /** mm */
  length: number;
  /** How far along it a place of the plane lies, mm: from its beginning, of a ring to either side from where it looks to the front. */
  along(x: number, y: number): number;
}

/** One flat of it: from where to where, counter-clockwise as seen from above. */
interface Flat {
  x0: number;
  y0: number;
  x1: number;
  y1: number;
}

/** A flat that bends more than this is an edge that was cut, not a piece of a curve, radians. */
const BENT = 1.7;

/**
 * @param front @param side the plane across the wall
 * @returns null where the wall is no single line or ring: where it branches, or stands in several pieces
 */
export function sectionOf(mesh: PolyMesh, faces: readonly number[], normals: Float64Array, front: Vec3, side: Vec3): Section | null {
  const flats = flatsOf(mesh, faces, normals, front, side);
  const chain = chained(flats);
  if (!chain) return null;
  const { list, closed } = chain;
  const lengths = curved(list, closed);
  const total = lengths.reduce((a, b) => a + b, 0);
  const starts: number[] = [0];
  for (const l of lengths) starts.push(starts[starts.length - 1] + l);
  // Of a place between two flats the nearer one has the say.
  const raw = (x: number, y: number): number => {
    let [best, far] = [0, Infinity];
    for (const [i, { x0, y0, x1, y1 }] of list.entries()) {
      const [dx, dy] = [x1 - x0, y1 - y0];
      const t = Math.min(1, Math.max(0, ((x - x0) * dx + (y - y0) * dy) / (dx * dx + dy * dy)));
      const d = (x - x0 - t * dx) ** 2 + (y - y0 - t * dy) ** 2;
      if (d < far - 1e-12) [best, far] = [starts[i] + t * lengths[i], d];
    }
    return best;
  };
  if (!closed) return { closed, length: total, along: raw };
  const zero = frontOf(list, starts, lengths);
  return {
    closed,
    length: total,
    along(x, y) {
      const s = raw(x, y) - zero;
      return s - total * Math.round(s / total);
    },
  };
}

/** Where a ring is met by the ray from its middle straight to the front. */
function frontOf(list: readonly Flat[], starts: readonly number[], lengths: readonly number[]): number {
  const low = list.reduce((m, f) => Math.min(m, f.y0), Infinity);
  const high = list.reduce((m, f) => Math.max(m, f.y0), -Infinity);
  const middle = (low + high) / 2;
  let [best, farthest] = [0, -Infinity];
  for (const [i, f] of list.entries()) {
    if (f.y0 > middle === f.y1 > middle) continue;
    const t = (middle - f.y0) / (f.y1 - f.y0);
    const x = f.x0 + t * (f.x1 - f.x0);
    if (x > farthest) [best, farthest] = [starts[i] + t * lengths[i], x];
  }
  return best;
}

/** Faces that lie in one plane and hang together, as the lines that they are from above. */
function flatsOf(mesh: PolyMesh, faces: readonly number[], normals: Float64Array, front: Vec3, side: Vec3): Flat[] {
  const edges = edgesOf(mesh);
  const mine = new Set(faces);
  const done = new Set<number>();
  const out: Flat[] = [];
  for (const first of faces) {
    if (done.has(first)) continue;
    done.add(first);
    const n = at(normals, first);
    const [nx, ny] = [dot(n, front), dot(n, side)];
    const l = Math.hypot(nx, ny) || 1;
    const [tx, ty] = [-ny / l, nx / l];
    let [low, high, away, count] = [Infinity, -Infinity, 0, 0];
    const group = [first];
    for (const f of group)
      for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
        const p = at(mesh.positions, mesh.faceVert[c]);
        const [x, y] = [dot(p, front), dot(p, side)];
        const t = tx * x + ty * y;
        [low, high] = [Math.min(low, t), Math.max(high, t)];
        away += (nx * x + ny * y) / l;
        count++;
        const other = twin(edges, c);
        const g = other < 0 ? -1 : edges.faceOf[other];
        if (g < 0 || !mine.has(g) || done.has(g) || dot(at(normals, g), n) < 1 - 1e-6) continue;
        done.add(g);
        group.push(g);
      }
    away /= count;
    const [ox, oy] = [(nx / l) * away, (ny / l) * away];
    out.push({ x0: ox + low * tx, y0: oy + low * ty, x1: ox + high * tx, y1: oy + high * ty });
  }
  return out;
}

/** Flats in the order in which they follow each other; null where that isn’t one line or one ring. */
function chained(flats: readonly Flat[]): { list: Flat[]; closed: boolean } | null {
  const long = flats.reduce((m, f) => Math.max(m, Math.hypot(f.x1 - f.x0, f.y1 - f.y0)), 0);
  const near = 1e-3 * long + 1e-6;
  const after = (f: Flat): Flat[] => flats.filter((g) => g !== f && Math.hypot(g.x0 - f.x1, g.y0 - f.y1) < near);
  const before = (f: Flat): Flat[] => flats.filter((g) => g !== f && Math.hypot(g.x1 - f.x0, g.y1 - f.y0) < near);
  let first = flats[0];
  const back = new Set([first]);
  for (;;) {
    const prior = before(first);
    if (prior.length > 1) return null;
    if (prior.length === 0 || back.has(prior[0])) break;
    [first] = prior;
    back.add(first);
  }
  const list = [first];
  for (let f = first; ; ) {
    const next = after(f);
    if (next.length > 1) return null;
    if (next.length === 0) return list.length === flats.length ? { list, closed: false } : null;
    if (next[0] === first) return list.length === flats.length ? { list, closed: true } : null;
    if (list.length > flats.length) return null;
    [f] = next;
    list.push(f);
  }
}

/**
 * Lengths of flats as those of arcs that go on smoothly one into the other through all corners. Which way the curve runs at the first corner
 * is open: it is set so that what is long stays straight.
 */
function curved(list: readonly Flat[], closed: boolean): number[] {
  const chords = list.map((f) => Math.hypot(f.x1 - f.x0, f.y1 - f.y0));
  const ways: number[] = [];
  for (const [i, f] of list.entries()) {
    const way = Math.atan2(f.y1 - f.y0, f.x1 - f.x0);
    ways.push(i === 0 ? way : way + 2 * Math.PI * Math.round((ways[i - 1] - way) / (2 * Math.PI)));
  }
  // A line of one flat is straight; so is every flat that meets only sharp turns.
  if (list.length < 2) return chords;
  const offsets = [0];
  for (const w of ways) offsets.push(2 * w - offsets[offsets.length - 1]);
  let [sum, weight] = [0, 0];
  for (const [i, w] of ways.entries()) {
    sum += chords[i] * (i % 2 === 0 ? 1 : -1) * (w - offsets[i]);
    weight += chords[i];
  }
  const first = sum / weight;
  const bends = ways.map((w, i) => 2 * (w - offsets[i] - (i % 2 === 0 ? 1 : -1) * first));
  if (!closed && list.length === 2) return chords;
  return chords.map((c, i) => {
    const half = Math.abs(bends[i]) / 2;
    return half < 1e-6 || half > BENT / 2 ? c : (c * half) / Math.sin(half);
  });
}
