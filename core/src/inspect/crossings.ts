import { type Crossing, through } from '../mesh/pairs';
import type { PolyMesh } from '../mesh/polymesh';
import { soupOf } from '../mesh/soup';
import { quickTree } from '../rays/quick-tree';

/**
 * Triangles of one mesh that cross others they share no corner with. Both sides of the question are the same tree, so each
 * pair of its branches is looked at once.
 *
 * @param most after so many it stops
 * @param counts whether two triangles are asked about at all
 */
export function selfCrossings(mesh: PolyMesh, most = Infinity, counts: (s: number, t: number) => boolean = () => true): Crossing[] {
  const soup = soupOf(mesh);
  const { nodes, links, corners, order } = quickTree(soup);
  const out: Crossing[] = [];
  if (order.length < 2) return out;
  const ids = Uint32Array.from({ length: 3 * order.length }, (_, i) => mesh.faceVert[mesh.triangles[3 * order[(i / 3) | 0] + (i % 3)]]);
  const faces = Uint32Array.from(order, (t) => mesh.triangleFace[t]);
  /** A branch is the place of its box, node by node and side by side; −1 is the whole. */
  const leafOf = (b: number) => links[16 * (b >> 1) + 13 + 2 * (b & 1)];
  const firstOf = (b: number) => links[16 * (b >> 1) + 12 + 2 * (b & 1)];
  const boxOf = (b: number) => 16 * (b >> 1) + 6 * (b & 1);
  const meet = (a: number, b: number): boolean => {
    const p = boxOf(a);
    const q = boxOf(b);
    for (let k = 0; k < 3; k++) if (nodes[p + k] > nodes[q + 3 + k] || nodes[q + k] > nodes[p + 3 + k]) return false;
    return true;
  };
  const boxes = trianglesBoxes(corners);
  const boxesMeet = (i: number, j: number): boolean => {
    for (let k = 0; k < 3; k++) if (boxes[6 * i + k] > boxes[6 * j + 3 + k] || boxes[6 * j + k] > boxes[6 * i + 3 + k]) return false;
    return true;
  };
  const shares = (i: number, j: number): boolean => {
    for (let k = 3 * i; k < 3 * i + 3; k++)
      if (ids[k] === ids[3 * j] || ids[k] === ids[3 * j + 1] || ids[k] === ids[3 * j + 2]) return true;
    return false;
  };
  const leaves = (a: number, b: number): boolean => {
    const q = firstOf(b);
    for (let i = firstOf(a), iEnd = i + leafOf(a); i < iEnd; i++)
      for (let j = a === b ? i + 1 : q, jEnd = q + leafOf(b); j < jEnd; j++) {
        // Triangles of one face were cut from it, side by side.
        if (faces[i] === faces[j] || !boxesMeet(i, j) || shares(i, j)) continue;
        const s = Math.min(order[i], order[j]);
        const t = Math.max(order[i], order[j]);
        if (!counts(s, t) || aside(soup, 9 * s, 9 * t) || aside(soup, 9 * t, 9 * s)) continue;
        const at = through(soup, 9 * s, soup, 9 * t, [0, 0, 0]);
        if (at) out.push({ a: s, b: t, at });
        if (out.length >= most) return true;
      }
    return false;
  };
  const stack: number[] = [0, 0, 0, 1, 1, 1];
  while (stack.length > 0) {
    const b = stack.pop() as number;
    const a = stack.pop() as number;
    if (a !== b && !meet(a, b)) continue;
    const leafA = leafOf(a) > 0 || firstOf(a) <= a >> 1;
    const leafB = leafOf(b) > 0 || firstOf(b) <= b >> 1;
    if (leafA && leafB) {
      if (leaves(a, b)) break;
    } else if (a === b) {
      const child = 2 * firstOf(a);
      stack.push(child, child, child, child + 1, child + 1, child + 1);
    } else if (leafB || (!leafA && size(nodes, boxOf(a)) >= size(nodes, boxOf(b)))) {
      const child = 2 * firstOf(a);
      stack.push(child, b, child + 1, b);
    } else {
      const child = 2 * firstOf(b);
      stack.push(a, child, a, child + 1);
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

const size = (nodes: Float32Array, o: number): number =>
  nodes[o + 3] - nodes[o] + (nodes[o + 4] - nodes[o + 1]) + (nodes[o + 5] - nodes[o + 2]);

function trianglesBoxes(corners: Float32Array): Float32Array {
  const out = new Float32Array((corners.length / 9) * 6);
  for (let t = 0; t < corners.length / 9; t++)
    for (let k = 0; k < 3; k++) {
      const [a, b, c] = [corners[9 * t + k], corners[9 * t + 3 + k], corners[9 * t + 6 + k]];
      out[6 * t + k] = Math.min(a, b, c);
      out[6 * t + 3 + k] = Math.max(a, b, c);
    }
  return out;
}
