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
const LEAF = 6;
/** Cost of visiting a node against that of testing one triangle, measured. */
const VISIT = 2;
/** Ranges larger than this are cut across their longest side only. */
const ALL_AXES = 2048;

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

/** The middle of all corners, as a float32. */
export function middle(soup: ArrayLike<number>): [number, number, number] {
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i < soup.length; i++) {
    const k = i % 3;
    if (soup[i] < low[k]) low[k] = soup[i];
    if (soup[i] > high[k]) high[k] = soup[i];
  }
  return soup.length === 0 ? [0, 0, 0] : ([0, 1, 2].map((k) => Math.fround((low[k] + high[k]) / 2)) as [number, number, number]);
}

const EMPTY_BINS = Float32Array.from({ length: BINS * 6 }, (_, i) => (i % 6 < 3 ? Infinity : -Infinity));

const area = (b: Float32Array | Float64Array, o: number): number => {
  const x = b[o + 3] - b[o];
  const y = b[o + 4] - b[o + 1];
  const z = b[o + 5] - b[o + 2];
  return x * y + y * z + z * x;
};

/** Splits ranges of `order` until they are leaves; returns the number of inner nodes. A hot loop on flat arrays. */
function split(
  count: number,
  boxes: Float32Array,
  centres: Float32Array,
  order: Uint32Array,
  nodes: Float32Array,
  links: Int32Array,
): number {
  const binCount = new Int32Array(BINS);
  const binBox = new Float32Array(BINS * 6);
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
      if (boxes[b] < out[at]) out[at] = boxes[b];
      if (boxes[b + 1] < out[at + 1]) out[at + 1] = boxes[b + 1];
      if (boxes[b + 2] < out[at + 2]) out[at + 2] = boxes[b + 2];
      if (boxes[b + 3] > out[at + 3]) out[at + 3] = boxes[b + 3];
      if (boxes[b + 4] > out[at + 4]) out[at + 4] = boxes[b + 4];
      if (boxes[b + 5] > out[at + 5]) out[at + 5] = boxes[b + 5];
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
    let [lx, ly, lz, hx, hy, hz] = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
    for (let i = from; i < to; i++) {
      const c = 3 * order[i];
      const x = centres[c];
      const y = centres[c + 1];
      const z = centres[c + 2];
      if (x < lx) lx = x;
      if (x > hx) hx = x;
      if (y < ly) ly = y;
      if (y > hy) hy = y;
      if (z < lz) lz = z;
      if (z > hz) hz = z;
    }
    box(from, to, whole, 0);
    const parent = area(whole, 0);
    let best = n <= LEAF * 2 ? n * parent : Infinity;
    let axis = -1;
    let cut = 0;
    let cutLow = 0;
    let cutScale = 0;
    const wide = Math.max(hx - lx, hy - ly, hz - lz);
    for (let k = 0; k < 3; k++) {
      const low = k === 0 ? lx : k === 1 ? ly : lz;
      const extent = (k === 0 ? hx : k === 1 ? hy : hz) - low;
      // Large ranges are only cut across their longest side: three axes would cost thrice and gain little there.
      if (extent <= 0 || (n > ALL_AXES && extent < wide)) continue;
      const scale = (BINS * (1 - 1e-6)) / extent;
      binCount.fill(0, 0, BINS);
      binBox.set(EMPTY_BINS);
      for (let i = from; i < to; i++) {
        const t = order[i];
        const bin = ((centres[3 * t + k] - low) * scale) | 0;
        binCount[bin]++;
        const o = 6 * bin;
        const b = 6 * t;
        if (boxes[b] < binBox[o]) binBox[o] = boxes[b];
        if (boxes[b + 1] < binBox[o + 1]) binBox[o + 1] = boxes[b + 1];
        if (boxes[b + 2] < binBox[o + 2]) binBox[o + 2] = boxes[b + 2];
        if (boxes[b + 3] > binBox[o + 3]) binBox[o + 3] = boxes[b + 3];
        if (boxes[b + 4] > binBox[o + 4]) binBox[o + 4] = boxes[b + 4];
        if (boxes[b + 5] > binBox[o + 5]) binBox[o + 5] = boxes[b + 5];
      }
      clear();
      let c = 0;
      for (let b = BINS - 1; b > 0; b--) {
        grow(b);
        c += binCount[b];
        rightArea[b] = c > 0 ? area(sweep, 0) : 0;
        rightCount[b] = c;
      }
      clear();
      c = 0;
      for (let b = 0; b < BINS - 1; b++) {
        grow(b);
        c += binCount[b];
        if (c === 0 || rightCount[b + 1] === 0) continue;
        const cost = VISIT * parent + c * area(sweep, 0) + rightCount[b + 1] * rightArea[b + 1];
        if (cost < best) {
          best = cost;
          axis = k;
          cut = b;
          cutLow = low;
          cutScale = scale;
        }
      }
    }
    if (axis < 0) return n > LEAF * 2 ? from + (n >> 1) : -1;
    let i = from;
    let j = to - 1;
    while (i <= j) {
      if ((((centres[3 * order[i] + axis] - cutLow) * cutScale) | 0) <= cut) i++;
      else {
        const t = order[i];
        order[i] = order[j];
        order[j--] = t;
      }
    }
    return i;
  }

  function clear(): void {
    sweep[0] = sweep[1] = sweep[2] = Infinity;
    sweep[3] = sweep[4] = sweep[5] = -Infinity;
  }

  function grow(bin: number): void {
    const o = 6 * bin;
    if (binBox[o] < sweep[0]) sweep[0] = binBox[o];
    if (binBox[o + 1] < sweep[1]) sweep[1] = binBox[o + 1];
    if (binBox[o + 2] < sweep[2]) sweep[2] = binBox[o + 2];
    if (binBox[o + 3] > sweep[3]) sweep[3] = binBox[o + 3];
    if (binBox[o + 4] > sweep[4]) sweep[4] = binBox[o + 4];
    if (binBox[o + 5] > sweep[5]) sweep[5] = binBox[o + 5];
  }
}
