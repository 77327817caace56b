import { type Edges, edgesOf } from '../../mesh/connectivity';
import { edgeTurns } from '../../mesh/curvature';
import { faceNormals } from '../../mesh/normals';
import { attribute, type PolyMesh } from '../../mesh/polymesh';

/** Numbers for every edge: its two ends, mm, and the least width of a line for which it is an edge at all. */
export const EDGE_STRIDE = 7;
/** How much a surface turns over an edge, within the width of the line on it: common practice, no source. */
const TURN = Math.PI / 6;
/** Past this no shading makes a round of an edge. */
const SHARP = Math.PI / 3;
/** Edges that hardly turn are none, however many lie side by side. */
const LEAST_TURN = (2 * Math.PI) / 180;
/** So many facets on either side of an edge are followed: a round in more of them is looked at no farther. */
const MOST_FACETS = 24;
/** The widest line there is, mm: further away nothing is looked for. */
const WIDEST = 4;

/**
 * Where a mesh has edges that stick out: those that turn by 30° by themselves, and those of bevels and rounds that do so together with what
 * runs beside them, with the width within which they do. An edge between facets that are shaded as one surface stands for a round as wide as
 * the narrower of them: the side of a knob of few facets has no edges. Found on a cut across each, so that what lies near without belonging to it says nothing.
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
  const section = new Section(mesh, edges, turns);
  const hard = attribute(mesh, 'hard', 'corner')?.data;
  const isSoft = (e: number) => hard !== undefined && !edges.corners.subarray(edges.start[e], edges.start[e + 1]).some((c) => hard[c] > 0);
  for (let e = 0; e < edges.count; e++) {
    if (turns[e] >= TURN - 1e-6) {
      const stands = turns[e] < SHARP && isSoft(e);
      const facet = stands ? section.across(e).find(([, turn]) => Math.abs(turn) > LEAST_TURN) : undefined;
      if (!stands) put(e, 0);
      else if (facet) put(e, (facet[0] * TURN) / turns[e]);
    } else if (turns[e] > LEAST_TURN) gentle.push(e);
  }
  for (const e of gentle) {
    let turn = turns[e];
    for (const [away, more] of section.across(e)) {
      turn += more;
      if (turn < TURN - 1e-6) continue;
      put(e, 2 * away);
      break;
    }
  }
  return Float32Array.from(out);
}

/** Cuts a surface across an edge and follows the cut over the faces on either side, as far as half the widest line. */
class Section {
  constructor(
    private readonly mesh: PolyMesh,
    private readonly edges: Edges,
    private readonly turns: Float64Array,
  ) {}

  /** How far away along the cut, mm, the surface turns how much more, nearest first. */
  across(e: number): [away: number, turn: number][] {
    const { edges, mesh } = this;
    const p = mesh.positions;
    const [a, b] = [3 * edges.ends[2 * e], 3 * edges.ends[2 * e + 1]];
    const d = [p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]];
    const long = Math.hypot(d[0], d[1], d[2]);
    if (long === 0) return [];
    const found: [number, number][] = [];
    const middle = [0, 1, 2].map((k) => (p[a + k] + p[b + k]) / 2);
    const normal = d.map((x) => x / long);
    for (let s = edges.start[e]; s < edges.start[e + 1]; s++) this.follow(e, edges.corners[s], middle, normal, found);
    return found.sort((x, y) => x[0] - y[0]);
  }

  /** @param corner that starts the edge in the face the cut goes on in */
  private follow(e: number, corner: number, middle: readonly number[], normal: readonly number[], found: [number, number][]): void {
    const { edges, mesh, turns } = this;
    const p = mesh.positions;
    const side = (v: number) =>
      (p[3 * v] - middle[0]) * normal[0] + (p[3 * v + 1] - middle[1]) * normal[1] + (p[3 * v + 2] - middle[2]) * normal[2];
    let [at, last, away] = [corner, middle, 0];
    let entered = e;
    for (let steps = 0; steps < MOST_FACETS; steps++) {
      let out = -1;
      let to: number[] = [];
      for (let c = edges.next[at]; c !== at; c = edges.next[c]) {
        if (edges.ofCorner[c] === entered) continue;
        const [v, w] = [mesh.faceVert[c], mesh.faceVert[edges.next[c]]];
        const [sv, sw] = [side(v), side(w)];
        if (sv * sw > 0 || sv === sw) continue;
        const t = sv / (sv - sw);
        out = c;
        to = [0, 1, 2].map((k) => p[3 * v + k] + t * (p[3 * w + k] - p[3 * v + k]));
        break;
      }
      if (out < 0) return;
      away += Math.hypot(to[0] - last[0], to[1] - last[1], to[2] - last[2]);
      if (away > WIDEST / 2) return;
      entered = edges.ofCorner[out];
      const turn = turns[entered];
      // An open rim: there is no other side.
      if (Number.isNaN(turn)) return;
      const [v, w] = [3 * edges.ends[2 * entered], 3 * edges.ends[2 * entered + 1]];
      const along = [0, 1, 2].map((k) => p[w + k] - p[v + k]);
      const l = Math.hypot(along[0], along[1], along[2]) || 1;
      // An edge that the cut crosses aslant turns it by so much less.
      found.push([away, turn * Math.abs((along[0] * normal[0] + along[1] * normal[1] + along[2] * normal[2]) / l)]);
      const first = edges.corners[edges.start[entered]];
      at = first === out ? edges.corners[edges.start[entered] + 1] : first;
      last = to;
    }
  }
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
    this.cell = Math.max(2 * reach, far / 96);
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
