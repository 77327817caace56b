import { type Crossing, through } from '../mesh/pairs';
import type { PolyMesh } from '../mesh/polymesh';
import { soupOf } from '../mesh/soup';
import { buildTree } from '../rays/tree';

/**
 * Triangles of one mesh that cross others they share no corner with. Both sides of the question are the same tree, so each
 * pair of its branches is looked at once.
 *
 * @param most after so many it stops
 * @param counts whether two triangles are asked about at all
 */
export function selfCrossings(mesh: PolyMesh, most = Infinity, counts: (s: number, t: number) => boolean = () => true): Crossing[] {
  const soup = soupOf(mesh);
  const { nodes, packs, triangles } = buildTree(soup);
  const out: Crossing[] = [];
  if (triangles < 2) return out;
  const refs = new Int32Array(nodes.buffer, nodes.byteOffset, nodes.length);
  const numbers = new Int32Array(packs.buffer, packs.byteOffset, packs.length);
  const boxes = packBoxes(packs);
  /** A branch is a child of a node: node · 4 + lane. */
  const leadsTo = (branch: number): number => refs[32 * (branch >> 2) + 24 + (branch & 3)];
  const meet = (a: number, b: number): boolean => {
    const p = 32 * (a >> 2) + (a & 3);
    const q = 32 * (b >> 2) + (b & 3);
    for (let k = 0; k < 12; k += 4) if (nodes[p + k] > nodes[q + 12 + k] || nodes[q + k] > nodes[p + 12 + k]) return false;
    return true;
  };
  const size = (branch: number): number => {
    const o = 32 * (branch >> 2) + (branch & 3);
    return nodes[o + 12] - nodes[o] + (nodes[o + 16] - nodes[o + 4]) + (nodes[o + 20] - nodes[o + 8]);
  };
  const boxesMeet = (i: number, j: number): boolean => {
    for (let k = 0; k < 3; k++) if (boxes[6 * i + k] > boxes[6 * j + 3 + k] || boxes[6 * j + k] > boxes[6 * i + 3 + k]) return false;
    return true;
  };
  const shares = (s: number, t: number): boolean => {
    for (let i = 3 * s; i < 3 * s + 3; i++)
      for (let j = 3 * t; j < 3 * t + 3; j++) if (mesh.faceVert[mesh.triangles[i]] === mesh.faceVert[mesh.triangles[j]]) return true;
    return false;
  };
  /** Triangles of two packs against each other; whether that was enough. */
  const leaves = (a: number, b: number): boolean => {
    for (let i = 0; i < 4; i++)
      for (let j = a === b ? i + 1 : 0; j < 4; j++) {
        if (!boxesMeet(4 * a + i, 4 * b + j)) continue;
        const [one, other] = [numbers[40 * a + 36 + i], numbers[40 * b + 36 + j]];
        const [s, t] = [Math.min(one, other), Math.max(one, other)];
        // Triangles of one face were cut from it, side by side.
        if (mesh.triangleFace[s] === mesh.triangleFace[t] || shares(s, t)) continue;
        if (!counts(s, t) || aside(soup, 9 * s, 9 * t) || aside(soup, 9 * t, 9 * s)) continue;
        const at = through(soup, 9 * s, soup, 9 * t, [0, 0, 0]);
        if (at) out.push({ a: s, b: t, at });
        if (out.length >= most) return true;
      }
    return false;
  };
  const stack: number[] = [];
  /** All pairs of a node’s children, each with itself too. */
  const within = (node: number) => {
    for (let i = 0; i < 4; i++)
      for (let j = i; j < 4; j++) if (there(4 * node + i) && there(4 * node + j)) stack.push(4 * node + i, 4 * node + j);
  };
  const there = (branch: number): boolean => nodes[32 * (branch >> 2) + (branch & 3)] !== Infinity;
  within(0);
  while (stack.length > 0) {
    const b = stack.pop() as number;
    const a = stack.pop() as number;
    if (a !== b && !meet(a, b)) continue;
    const [p, q] = [leadsTo(a), leadsTo(b)];
    if (p < 0 && q < 0) {
      if (leaves(~p, ~q)) break;
    } else if (a === b) within(p);
    else {
      const opened = q < 0 || (p >= 0 && size(a) >= size(b)) ? [p, b] : [q, a];
      for (let i = 0; i < 4; i++) if (there(4 * opened[0] + i)) stack.push(4 * opened[0] + i, opened[1]);
    }
  }
  return out.sort((x, y) => x.a - y.a || x.b - y.b);
}

/** Whether a triangle lies wholly on one side of another's plane, or in it (Möller 1997): then they touch at most. */
function aside(p: Float64Array, i: number, j: number): boolean {
  const ux = p[j + 3] - p[j];
  const uy = p[j + 4] - p[j + 1];
  const uz = p[j + 5] - p[j + 2];
  const vx = p[j + 6] - p[j];
  const vy = p[j + 7] - p[j + 1];
  const vz = p[j + 8] - p[j + 2];
  const nx = uy * vz - uz * vy;
  const ny = uz * vx - ux * vz;
  const nz = ux * vy - uy * vx;
  const a = nx * (p[i] - p[j]) + ny * (p[i + 1] - p[j + 1]) + nz * (p[i + 2] - p[j + 2]);
  const b = nx * (p[i + 3] - p[j]) + ny * (p[i + 4] - p[j + 1]) + nz * (p[i + 5] - p[j + 2]);
  const c = nx * (p[i + 6] - p[j]) + ny * (p[i + 7] - p[j + 1]) + nz * (p[i + 8] - p[j + 2]);
  return (a >= 0 && b >= 0 && c >= 0) || (a <= 0 && b <= 0 && c <= 0);
}

/** Boxes of the triangles in packs, 6 numbers each; of those that aren't there, none that meets anything. */
function packBoxes(packs: Float32Array): Float32Array {
  const out = new Float32Array((packs.length / 10) * 6);
  for (let i = 0; i < packs.length / 10; i++) {
    const at = 40 * (i >> 2) + (i & 3);
    for (let k = 0; k < 3; k++) {
      const [a, b, c] = [packs[at + 4 * k], packs[at + 12 + 4 * k], packs[at + 24 + 4 * k]];
      out[6 * i + k] = Number.isNaN(a) ? Infinity : Math.min(a, b, c);
      out[6 * i + 3 + k] = Number.isNaN(a) ? -Infinity : Math.max(a, b, c);
    }
  }
  return out;
}
