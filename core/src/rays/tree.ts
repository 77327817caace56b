/**
 * A tree of boxes over triangles, for rays and nearest points: two-wide, built by binned surface-area heuristic
 * (Wald 2007), in flat arrays that can be shared between workers.
 *
 * Memory of one inner node, 16 numbers of 4 bytes in one buffer seen as floats and as integers:
 *
 *     0…5    box of the left child   min x y z, max x y z
 *     6…11   box of the right child
 *     12     left:  inner node's number, or first triangle of a leaf      13  triangles in it, 0 for an inner node
 *     14     right: the same                                             15
 *
 * `corners` holds 9 floats a triangle in leaf order; `order` leads back to the caller's triangle numbers.
 */
export interface RayTree {
  nodes: Float32Array;
  links: Int32Array;
  corners: Float32Array;
  order: Uint32Array;
  /** Origin the float32 positions are about, mm. */
  origin: [number, number, number];
}

const BINS = 16;
const LEAF = 4;
/** Cost of visiting a node against that of testing one triangle, measured. */
const VISIT = 1.2;

/** How buffers are made: SharedArrayBuffer where several workers are to see the tree. */
export type Allocate = (bytes: number) => ArrayBufferLike;
export const PRIVATE: Allocate = (bytes) => new ArrayBuffer(bytes);

/**
 * @param soup 9 numbers per triangle, mm
 * @param allocate where the arrays live
 */
export function buildTree(soup: ArrayLike<number>, allocate: Allocate = PRIVATE): RayTree {
  const count = soup.length / 9;
  const origin = middle(soup);
  const local = new Float32Array(soup.length);
  for (let i = 0; i < soup.length; i++) local[i] = soup[i] - origin[i % 3];
  const boxes = new Float32Array(6 * count);
  const centres = new Float32Array(3 * count);
  for (let t = 0; t < count; t++)
    for (let k = 0; k < 3; k++) {
      const a = local[9 * t + k];
      const b = local[9 * t + 3 + k];
      const c = local[9 * t + 6 + k];
      const low = a < b ? (a < c ? a : c) : b < c ? b : c;
      const high = a > b ? (a > c ? a : c) : b > c ? b : c;
      boxes[6 * t + k] = low;
      boxes[6 * t + 3 + k] = high;
      centres[3 * t + k] = (low + high) / 2;
    }
  const order = new Uint32Array(allocate(4 * count));
  for (let t = 0; t < count; t++) order[t] = t;
  const room = new Float32Array(16 * Math.max(1, count));
  const links = new Int32Array(room.buffer);
  const used = split(count, boxes, centres, order, room, links);

  const nodes = new Float32Array(allocate(64 * used));
  nodes.set(room.subarray(0, 16 * used));
  const corners = new Float32Array(allocate(36 * count));
  for (let t = 0; t < count; t++) corners.set(local.subarray(9 * order[t], 9 * order[t] + 9), 9 * t);
  return { nodes, links: new Int32Array(nodes.buffer), corners, order, origin };
}

function middle(soup: ArrayLike<number>): [number, number, number] {
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i < soup.length; i++) {
    const k = i % 3;
    if (soup[i] < low[k]) low[k] = soup[i];
    if (soup[i] > high[k]) high[k] = soup[i];
  }
  return soup.length === 0 ? [0, 0, 0] : [0, 1, 2].map((k) => Math.fround((low[k] + high[k]) / 2)) as [number, number, number];
}

const area = (b: Float32Array | Float64Array, o: number): number => {
  const x = b[o + 3] - b[o];
  const y = b[o + 4] - b[o + 1];
  const z = b[o + 5] - b[o + 2];
  return x * y + y * z + z * x;
};

/** Splits ranges of `order` until they are leaves; returns the number of inner nodes. A hot loop on flat arrays. */
function split(count: number, boxes: Float32Array, centres: Float32Array, order: Uint32Array, nodes: Float32Array, links: Int32Array): number {
  const binCount = new Int32Array(3 * BINS);
  const binBox = new Float32Array(3 * BINS * 6);
  const rightArea = new Float64Array(BINS);
  const rightCount = new Int32Array(BINS);
  const sweep = new Float64Array(6);
  const whole = new Float32Array(6);
  // Ranges waiting: from, to, and the link (node * 2 + side) to fill; −1 for the root.
  const stack: number[] = [0, count, -1];
  let used = 0;
  const box = (from: number, to: number, out: Float32Array, at: number) => {
    for (let k = 0; k < 3; k++) {
      out[at + k] = Infinity;
      out[at + 3 + k] = -Infinity;
    }
    for (let i = from; i < to; i++) {
      const b = 6 * order[i];
      for (let k = 0; k < 3; k++) {
        if (boxes[b + k] < out[at + k]) out[at + k] = boxes[b + k];
        if (boxes[b + 3 + k] > out[at + 3 + k]) out[at + 3 + k] = boxes[b + 3 + k];
      }
    }
  };
  while (stack.length > 0) {
    const link = stack.pop() as number;
    const to = stack.pop() as number;
    const from = stack.pop() as number;
    const n = to - from;
    const attach = (value: number, leaf: number) => {
      if (link < 0) return;
      links[16 * (link >> 1) + 12 + 2 * (link & 1)] = value;
      links[16 * (link >> 1) + 13 + 2 * (link & 1)] = leaf;
    };
    let at = n <= LEAF && link >= 0 ? -1 : bestSplit(from, to);
    if (at < 0 && link >= 0) {
      attach(from, n);
      continue;
    }
    // The root is always an inner node, even over one triangle: its second child may then be empty.
    if (at < 0) at = n > 1 ? from + (n >> 1) : to;
    const node = used++;
    attach(node, 0);
    box(from, at, nodes, 16 * node);
    box(at, to, nodes, 16 * node + 6);
    links[16 * node + 12] = from;
    links[16 * node + 13] = at - from;
    links[16 * node + 14] = at;
    links[16 * node + 15] = to - at;
    if (at - from > 0) stack.push(from, at, 2 * node);
    if (to - at > 0) stack.push(at, to, 2 * node + 1);
  }
  return used;

  function bestSplit(from: number, to: number): number {
    const n = to - from;
    if (n < 2) return -1;
    const low = [Infinity, Infinity, Infinity];
    const high = [-Infinity, -Infinity, -Infinity];
    for (let i = from; i < to; i++)
      for (let k = 0; k < 3; k++) {
        const c = centres[3 * order[i] + k];
        if (c < low[k]) low[k] = c;
        if (c > high[k]) high[k] = c;
      }
    binCount.fill(0);
    for (let b = 0; b < 3 * BINS; b++) {
      binBox.fill(Infinity, 6 * b, 6 * b + 3);
      binBox.fill(-Infinity, 6 * b + 3, 6 * b + 6);
    }
    const scale = [0, 1, 2].map((k) => (high[k] > low[k] ? (BINS * (1 - 1e-6)) / (high[k] - low[k]) : 0));
    for (let i = from; i < to; i++) {
      const t = order[i];
      const b = 6 * t;
      for (let k = 0; k < 3; k++) {
        if (scale[k] === 0) continue;
        const bin = k * BINS + Math.floor((centres[3 * t + k] - low[k]) * scale[k]);
        binCount[bin]++;
        const o = 6 * bin;
        for (let j = 0; j < 3; j++) {
          if (boxes[b + j] < binBox[o + j]) binBox[o + j] = boxes[b + j];
          if (boxes[b + 3 + j] > binBox[o + 3 + j]) binBox[o + 3 + j] = boxes[b + 3 + j];
        }
      }
    }
    box(from, to, whole, 0);
    const parent = area(whole, 0);
    let best = n <= LEAF * 2 ? n * parent : Infinity;
    let axis = -1;
    let cut = 0;
    for (let k = 0; k < 3; k++) {
      if (scale[k] === 0) continue;
      sweep.fill(Infinity, 0, 3);
      sweep.fill(-Infinity, 3, 6);
      let c = 0;
      for (let b = BINS - 1; b > 0; b--) {
        grow(k * BINS + b);
        c += binCount[k * BINS + b];
        rightArea[b] = c > 0 ? area(sweep, 0) : 0;
        rightCount[b] = c;
      }
      sweep.fill(Infinity, 0, 3);
      sweep.fill(-Infinity, 3, 6);
      c = 0;
      for (let b = 0; b < BINS - 1; b++) {
        grow(k * BINS + b);
        c += binCount[k * BINS + b];
        if (c === 0 || rightCount[b + 1] === 0) continue;
        const cost = VISIT * parent + c * area(sweep, 0) + rightCount[b + 1] * rightArea[b + 1];
        if (cost < best) {
          best = cost;
          axis = k;
          cut = b;
        }
      }
    }
    if (axis < 0) return n > LEAF * 2 ? from + (n >> 1) : -1;
    let i = from;
    let j = to - 1;
    while (i <= j) {
      if (Math.floor((centres[3 * order[i] + axis] - low[axis]) * scale[axis]) <= cut) i++;
      else {
        const t = order[i];
        order[i] = order[j];
        order[j--] = t;
      }
    }
    return i;
  }

  function grow(bin: number): void {
    for (let j = 0; j < 3; j++) {
      if (binBox[6 * bin + j] < sweep[j]) sweep[j] = binBox[6 * bin + j];
      if (binBox[6 * bin + 3 + j] > sweep[3 + j]) sweep[3 + j] = binBox[6 * bin + 3 + j];
    }
  }
}
