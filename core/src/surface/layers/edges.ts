import { edgesOf } from '../../mesh/connectivity';
import { edgeTurns } from '../../mesh/curvature';
import { faceNormals } from '../../mesh/normals';
import type { PolyMesh } from '../../mesh/polymesh';

/** Numbers for every edge: its two ends, mm, and the least width of a line for which it is an edge at all. */
export const EDGE_STRIDE = 7;
/** How much a surface turns over an edge, within the width of the line on it: common practice, no source. */
const TURN = Math.PI / 6;
/** Edges that hardly turn are none, however many lie side by side. */
const LEAST_TURN = (2 * Math.PI) / 180;
/** The widest line there is, mm: further away nothing is looked for. */
const WIDEST = 4;

/**
 * Where a mesh has edges that stick out: those that turn by 30° by themselves, and those of bevels and rounds that do so together with what
 * runs beside them, with the width within which they do.
 *
 * @returns {@link EDGE_STRIDE} numbers for each
 */
export function edgeLines(mesh: PolyMesh): Float32Array<ArrayBuffer> {
  const edges = edgesOf(mesh);
  const turns = edgeTurns(mesh, faceNormals(mesh), edges);
  const p = mesh.positions;
  const out: number[] = [];
  const put = (e: number, from: number) => {
    for (const v of [edges.ends[2 * e], edges.ends[2 * e + 1]]) out.push(p[3 * v], p[3 * v + 1], p[3 * v + 2]);
    out.push(from);
  };
  const gentle: number[] = [];
  for (let e = 0; e < edges.count; e++) {
    if (turns[e] >= TURN - 1e-6) put(e, 0);
    else if (turns[e] > LEAST_TURN) gentle.push(e);
  }
  if (gentle.length === 0) return Float32Array.from(out);
  // Middles, directions and lengths of those that need others beside them.
  const cells = new Map<string, number[]>();
  const cell = WIDEST / 2;
  const about = gentle.map((e) => {
    const [a, b] = [3 * edges.ends[2 * e], 3 * edges.ends[2 * e + 1]];
    const d = [p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]];
    const long = Math.hypot(d[0], d[1], d[2]) || 1;
    return { m: [0, 1, 2].map((k) => (p[a + k] + p[b + k]) / 2), d: d.map((x) => x / long), long, turn: turns[e] };
  });
  // An edge lies in every cell it runs through, so that long ones are found beside short ones.
  const keysOf = ({ m, d, long }: (typeof about)[number]): Set<string> => {
    const keys = new Set<string>();
    const steps = Math.min(4096, Math.ceil(long / cell));
    for (let s = 0; s <= steps; s++) {
      const t = (s / Math.max(1, steps) - 0.5) * long;
      keys.add([0, 1, 2].map((k) => Math.floor((m[k] + t * d[k]) / cell)).join());
    }
    return keys;
  };
  for (const [i, own] of about.entries())
    for (const key of keysOf(own)) {
      const list = cells.get(key);
      if (list) list.push(i);
      else cells.set(key, [i]);
    }
  for (const [i, own] of about.entries()) {
    const beside = new Map<number, number>();
    const [x, y, z] = own.m.map((v) => Math.floor(v / cell));
    for (let a = x - 1; a <= x + 1; a++)
      for (let b = y - 1; b <= y + 1; b++)
        for (let c = z - 1; c <= z + 1; c++)
          for (const j of cells.get(`${a},${b},${c}`) ?? []) {
            if (j === i || beside.has(j)) continue;
            const other = about[j];
            if (Math.abs(own.d[0] * other.d[0] + own.d[1] * other.d[1] + own.d[2] * other.d[2]) < 0.9) continue;
            const to = own.m.map((v, k) => v - other.m[k]);
            const t = to[0] * other.d[0] + to[1] * other.d[1] + to[2] * other.d[2];
            // Beside it, and not before or behind it in the same line.
            if (Math.abs(t) > other.long / 2 + 1e-6) continue;
            const away = Math.hypot(...to.map((v, k) => v - t * other.d[k]));
            if (away > 1e-6 && away <= WIDEST / 2) beside.set(j, away);
          }
    let turn = own.turn;
    for (const [j, away] of [...beside].sort((a, b) => a[1] - b[1])) {
      turn += about[j].turn;
      if (turn < TURN - 1e-6) continue;
      put(gentle[i], 2 * away);
      break;
    }
  }
  return Float32Array.from(out);
}

/** Finds how far the nearest edge is, for a line of one width. */
export class EdgeGrid {
  private readonly cells = new Map<number, Int32Array>();
  private readonly cell: number;

  /** @param lines of {@link edgeLines} @param width of the line, mm @param reach beyond which nothing is asked for, mm */
  constructor(
    private readonly lines: Float32Array,
    width: number,
    private readonly reach: number,
  ) {
    let far = 0;
    for (let o = 0; o < lines.length; o += EDGE_STRIDE) for (let k = 0; k < 6; k++) far = Math.max(far, Math.abs(lines[o + k]));
    // Cells much smaller than the part would be many more than there are edges.
    this.cell = Math.max(2 * reach, far / 32);
    const step = this.cell / 2;
    const found = new Map<number, number[]>();
    for (let o = 0; o < lines.length; o += EDGE_STRIDE) {
      if (lines[o + 6] > width) continue;
      const d = [lines[o + 3] - lines[o], lines[o + 4] - lines[o + 1], lines[o + 5] - lines[o + 2]];
      const steps = Math.max(1, Math.ceil(Math.hypot(d[0], d[1], d[2]) / step));
      // What lies within reach of it lies within this of one of its steps.
      const r = reach + step / 2;
      for (let s = 0; s <= steps; s++) {
        const at = [0, 1, 2].map((k) => lines[o + k] + (s / steps) * d[k]);
        const low = at.map((v) => Math.floor((v - r) / this.cell));
        const high = at.map((v) => Math.floor((v + r) / this.cell));
        for (let a = low[0]; a <= high[0]; a++)
          for (let b = low[1]; b <= high[1]; b++)
            for (let c = low[2]; c <= high[2]; c++) {
              const key = keyOf(a, b, c);
              const list = found.get(key);
              if (!list) found.set(key, [o]);
              else if (list[list.length - 1] !== o) list.push(o);
            }
      }
    }
    for (const [key, list] of found) this.cells.set(key, Int32Array.from(list));
  }

  /** mm to the nearest edge; Infinity where none is within reach. */
  distance(x: number, y: number, z: number): number {
    const list = this.cells.get(keyOf(Math.floor(x / this.cell), Math.floor(y / this.cell), Math.floor(z / this.cell)));
    if (!list) return Number.POSITIVE_INFINITY;
    const l = this.lines;
    let least = this.reach * this.reach;
    let found = false;
    for (const o of list) {
      const [dx, dy, dz] = [l[o + 3] - l[o], l[o + 4] - l[o + 1], l[o + 5] - l[o + 2]];
      const [px, py, pz] = [x - l[o], y - l[o + 1], z - l[o + 2]];
      const long = dx * dx + dy * dy + dz * dz;
      const t = long > 0 ? Math.min(1, Math.max(0, (px * dx + py * dy + pz * dz) / long)) : 0;
      const d = (px - t * dx) ** 2 + (py - t * dy) ** 2 + (pz - t * dz) ** 2;
      if (d <= least) {
        least = d;
        found = true;
      }
    }
    return found ? Math.sqrt(least) : Number.POSITIVE_INFINITY;
  }
}

/** Three cell numbers as one: exact to ± 2¹⁶ cells either way. */
const keyOf = (a: number, b: number, c: number): number => ((a + 65536) * 131072 + (b + 65536)) * 131072 + (c + 65536);
