/**
 * Builds the very tree that `kernel/assembly/build.ts` builds, in plain TypeScript and the same arithmetic: float32 for boxes, float64 for
 * areas. It stands where no kernel can be loaded, and is what the kernel is held against.
 */

const BINS = 16;
const SMALL = 32;
const ALL_SIDES = 4096;
const DEEP = 56;
const LARGEST = 3.4028234663852886e38;
const BIN_SCALE = Math.fround(15.999);
const { fround } = Math;

/** A range of triangles with its box and the box of its doubled centres: low x y z, high x y z. */
interface Segment {
  from: number;
  to: number;
  box: Float32Array;
  centres: Float32Array;
}

const packsOf = (n: number): number => (n + 3) >> 2;

function areaOf(b: Float32Array, o = 0): number {
  const x = fround(b[o + 3] - b[o]);
  const y = fround(b[o + 4] - b[o + 1]);
  const z = fround(b[o + 5] - b[o + 2]);
  return x * y + y * z + z * x;
}

function empty(b: Float32Array, o = 0): void {
  b.fill(LARGEST, o, o + 3);
  b.fill(-LARGEST, o + 3, o + 6);
}

function grow(b: Float32Array, o: number, from: Float32Array, at: number): void {
  for (let k = 0; k < 3; k++) {
    if (from[at + k] < b[o + k]) b[o + k] = from[at + k];
    if (from[at + 3 + k] > b[o + 3 + k]) b[o + 3 + k] = from[at + 3 + k];
  }
}

/** Which range of a node is cut next; −1 when the node is as good as it gets. */
function toCut(segments: readonly Segment[]): number {
  const largestOf = (wanted: (n: number) => boolean): number => {
    let [chosen, largest] = [-1, -1];
    for (const [k, s] of segments.entries()) if (wanted(s.to - s.from) && areaOf(s.box) > largest) [chosen, largest] = [k, areaOf(s.box)];
    return chosen;
  };
  const tall = largestOf((n) => n > 16);
  return tall >= 0 ? tall : largestOf((n) => n > 4 && n <= 4 * (5 - segments.length));
}

/** @param soup 9 float32 a triangle, at least one */
export function referenceBuild(soup: Float32Array): { nodes: Float32Array; packs: Float32Array } {
  const count = soup.length / 9;
  const boxes = new Float32Array(6 * count);
  for (let t = 0; t < count; t++) {
    empty(boxes, 6 * t);
    for (let i = 0; i < 9; i++) {
      const x = soup[9 * t + i];
      const k = 6 * t + (i % 3);
      if (x < boxes[k]) boxes[k] = x;
      if (x > boxes[k + 3]) boxes[k + 3] = x;
    }
  }
  const order = Uint32Array.from({ length: count }, (_, t) => t);
  const centre = (t: number, axis: number) => fround(boxes[6 * t + axis] + boxes[6 * t + 3 + axis]);
  const nodes: Float32Array[] = [new Float32Array(32)];
  const packs: Float32Array[] = [];
  const tasks = [{ node: 0, from: 0, to: count, depth: 0 }];

  const measure = (from: number, to: number): Segment => {
    const box = new Float32Array(6);
    const centres = new Float32Array(6);
    empty(box);
    empty(centres);
    for (let i = from; i < to; i++) {
      const t = order[i];
      grow(box, 0, boxes, 6 * t);
      for (let k = 0; k < 3; k++) {
        const c = centre(t, k);
        if (c < centres[k]) centres[k] = c;
        if (c > centres[k + 3]) centres[k + 3] = c;
      }
    }
    return { from, to, box, centres };
  };

  const sortAlong = (from: number, to: number, axis: number) =>
    order.subarray(from, to).sort((a, b) => centre(a, axis) - centre(b, axis) || a - b);

  const cutSmall = ({ from, to }: Segment): number => {
    const n = to - from;
    let [best, bestAxis, cut] = [Infinity, 0, n >> 1];
    const sweep = new Float32Array(6);
    const right = new Float64Array(n);
    for (let axis = 0; axis < 3; axis++) {
      sortAlong(from, to, axis);
      empty(sweep);
      for (let i = n - 1; i > 0; i--) {
        grow(sweep, 0, boxes, 6 * order[from + i]);
        if ((i & 3) === 0) right[i] = areaOf(sweep);
      }
      empty(sweep);
      for (let left = 1; left < n; left++) {
        grow(sweep, 0, boxes, 6 * order[from + left - 1]);
        if ((left & 3) !== 0) continue;
        const cost = areaOf(sweep) * packsOf(left) + right[left] * packsOf(n - left);
        if (cost < best) [best, bestAxis, cut] = [cost, axis, left];
      }
    }
    if (bestAxis !== 2) sortAlong(from, to, bestAxis);
    return from + cut;
  };

  const cutLarge = ({ from, to, centres }: Segment): number => {
    const n = to - from;
    let [best, bestAxis, bestBin] = [Infinity, -1, 0];
    const binBoxes = new Float32Array(6 * BINS);
    const binCounts = new Int32Array(BINS);
    const rightCost = new Float64Array(BINS);
    const sweep = new Float32Array(6);
    const scaleOf = (axis: number) => {
      const extent = fround(centres[axis + 3] - centres[axis]);
      return extent > 0 ? fround(BIN_SCALE / extent) : 0;
    };
    const binOf = (t: number, axis: number, scale: number) =>
      Math.min(BINS - 1, Math.trunc(fround(fround(centre(t, axis) - centres[axis]) * scale)));
    const [x, y, z] = [0, 1, 2].map((k) => fround(centres[k + 3] - centres[k]));
    const longest = x >= y && x >= z ? 0 : y >= z ? 1 : 2;
    for (const axis of n > ALL_SIDES ? [longest] : [0, 1, 2]) {
      const scale = scaleOf(axis);
      for (let b = 0; b < BINS; b++) empty(binBoxes, 6 * b);
      binCounts.fill(0);
      for (let i = from; i < to; i++) {
        const bin = binOf(order[i], axis, scale);
        binCounts[bin]++;
        grow(binBoxes, 6 * bin, boxes, 6 * order[i]);
      }
      empty(sweep);
      let c = 0;
      for (let b = BINS - 1; b > 0; b--) {
        grow(sweep, 0, binBoxes, 6 * b);
        c += binCounts[b];
        rightCost[b] = c > 0 ? areaOf(sweep) * packsOf(c) : -1;
      }
      empty(sweep);
      c = 0;
      for (let b = 0; b < BINS - 1; b++) {
        grow(sweep, 0, binBoxes, 6 * b);
        c += binCounts[b];
        if (c === 0 || c === n) continue;
        const cost = areaOf(sweep) * packsOf(c) + rightCost[b + 1];
        if (cost < best) [best, bestAxis, bestBin] = [cost, axis, b];
      }
    }
    if (bestAxis < 0) return -1;
    const scale = scaleOf(bestAxis);
    let [i, j] = [from, to - 1];
    while (i <= j) {
      if (binOf(order[i], bestAxis, scale) <= bestBin) i++;
      else {
        [order[i], order[j]] = [order[j], order[i]];
        j--;
      }
    }
    return i;
  };

  const pack = (from: number, to: number): number => {
    const made = new Float32Array(40);
    const numbers = new Int32Array(made.buffer);
    for (let lane = 0; lane < 4; lane++) {
      const t = from + lane < to ? order[from + lane] : -1;
      for (let k = 0; k < 9; k++) {
        if (t >= 0) made[4 * k + lane] = soup[9 * t + k];
        else numbers[4 * k + lane] = 0x7fc00000;
      }
      numbers[36 + lane] = t;
    }
    return packs.push(made) - 1;
  };

  for (let task = tasks.pop(); task; task = tasks.pop()) {
    const segments = [measure(task.from, task.to)];
    while (segments.length < 4) {
      const chosen = toCut(segments);
      if (chosen < 0) break;
      const s = segments[chosen];
      const n = s.to - s.from;
      let cut = -1;
      if (task.depth < DEEP) cut = n <= SMALL ? cutSmall(s) : cutLarge(s);
      if (cut < 0) cut = s.from + Math.max(4, (n >> 1) & ~3);
      segments.push(measure(cut, s.to));
      segments[chosen] = measure(s.from, cut);
    }
    const node = nodes[task.node];
    const refs = new Int32Array(node.buffer);
    for (let k = 0; k < 4; k++) {
      const s = segments[k];
      for (let c = 0; c < 3; c++) {
        node[4 * c + k] = s ? s.box[c] : Infinity;
        node[12 + 4 * c + k] = s ? s.box[c + 3] : -Infinity;
      }
      if (!s) continue;
      if (s.to - s.from <= 4) refs[24 + k] = ~pack(s.from, s.to);
      else {
        refs[24 + k] = nodes.push(new Float32Array(32)) - 1;
        tasks.push({ node: refs[24 + k], from: s.from, to: s.to, depth: task.depth + 1 });
      }
    }
  }
  return { nodes: joined(nodes, 32), packs: joined(packs, 40) };
}

/** One array of many of one length, bit for bit. */
function joined(parts: Float32Array[], each: number): Float32Array {
  const out = new Float32Array(each * parts.length);
  const bits = new Uint32Array(out.buffer);
  for (const [i, p] of parts.entries()) bits.set(new Uint32Array(p.buffer), each * i);
  return out;
}
