import { IDS, NODE, PACK, REFS } from './layout';

/**
 * Builds a tree four wide by the surface-area heuristic in bins (Wald 2007), on flat memory. A range of triangles is cut until it is
 * four or fewer, which is one pack; a node takes the four ranges that come of cutting the largest first, so nothing has to be widened
 * afterwards. The cost of a range counts packs, not triangles, and small ranges are cut after every fourth, so that packs are full.
 */

const BINS: i32 = 16;
/** Ranges up to this many are sorted and tried at every fourth place rather than binned. */
const SMALL: i32 = 32;
/** Ranges larger than this are cut across their longest side only: three sides would cost thrice and gain little there. */
const ALL_SIDES: i32 = 4096;
/** Deeper than this, ranges are halved: the stack of a ray stays bounded whatever the triangles. */
const DEEP: i32 = 56;

/** A triangle at work: its box, its number in the place of the fourth coordinate. */
const ITEM: usize = 32;
/** A range: from, to, box and box of the doubled centres, as vectors. */
const SEGMENT: usize = 80;
/** Waiting: node, from, to, depth. */
const TASK: usize = 16;

/** Within the work memory: four ranges, bins of three axes, sweeps, waiting tasks, sorting; then the items. */
const SEGMENTS: usize = 0;
const BIN_BOXES: usize = 512;
const BIN_COUNTS: usize = BIN_BOXES + 3 * 16 * 32;
const SWEEP_COST: usize = BIN_COUNTS + 3 * 16 * 4;
const SORT_AREA: usize = SWEEP_COST + 16 * 8;
const SORTED: usize = SORT_AREA + 40 * 8;
const TASKS: usize = 8192;
const ITEMS: usize = 65536;

/** Bytes of work memory for so many triangles. */
export function workBytes(count: i32): usize {
  return ITEMS + ITEM * <usize>count;
}

function areaOf(low: v128, high: v128): f64 {
  const d = f32x4.sub(high, low);
  const x = <f64>f32x4.extract_lane(d, 0);
  const y = <f64>f32x4.extract_lane(d, 1);
  const z = <f64>f32x4.extract_lane(d, 2);
  return x * y + y * z + z * x;
}

@inline
function packsOf(n: i32): f64 {
  return <f64>((n + 3) >> 2);
}

/** Gathers the boxes of a range. */
function measure(segment: usize, items: usize, from: i32, to: i32): void {
  let low = f32x4.splat(f32.MAX_VALUE);
  let high = f32x4.splat(-f32.MAX_VALUE);
  let cLow = low;
  let cHigh = high;
  const end: usize = items + ITEM * <usize>to;
  for (let p: usize = items + ITEM * <usize>from; p < end; p += ITEM) {
    const a = v128.load(p);
    const b = v128.load(p, 16);
    low = f32x4.pmin(low, a);
    high = f32x4.pmax(high, b);
    const c = f32x4.add(a, b);
    cLow = f32x4.pmin(cLow, c);
    cHigh = f32x4.pmax(cHigh, c);
  }
  keep(segment, from, to, low, high, cLow, cHigh);
}

/** Orders a small range by the doubled centre along an axis, equal ones by number. */
function sortItems(items: usize, from: i32, n: i32, axis: usize): void {
  const first: usize = items + ITEM * <usize>from;
  for (let i: i32 = 1; i < n; i++) {
    const p = first + ITEM * <usize>i;
    const a = v128.load(p);
    const b = v128.load(p, 16);
    const key = load<f32>(p + axis) + load<f32>(p + axis, 16);
    const id = load<i32>(p, 12);
    let q = p;
    while (q > first) {
      const before = load<f32>(q - ITEM + axis) + load<f32>(q - ITEM + axis, 16);
      if (!(before > key || (before == key && load<i32>(q - ITEM, 12) > id))) break;
      v128.store(q, v128.load(q - ITEM));
      v128.store(q, v128.load(q - ITEM, 16), 16);
      q -= ITEM;
    }
    v128.store(q, a);
    v128.store(q, b, 16);
  }
}

/**
 * Which range of a node is cut next: the largest by area of those that a node of their own could not hold all packs of; then the largest
 * of those that can be opened into packs right here, which saves a node. −1 when the node is as good as it gets.
 */
function toCut(segments: usize, n: i32): i32 {
  let chosen: i32 = -1;
  let largest: f64 = -1;
  for (let pass: i32 = 0; pass < 2 && chosen < 0; pass++)
    for (let k: i32 = 0; k < n; k++) {
      const s = segments + SEGMENT * <usize>k;
      const count = load<i32>(s, 4) - load<i32>(s);
      if (pass == 0 ? count <= 16 : count <= 4 || count > 4 * (5 - n)) continue;
      const area = areaOf(v128.load(s, 16), v128.load(s, 32));
      if (area > largest) {
        largest = area;
        chosen = k;
      }
    }
  return chosen;
}

/** Where a small range is best cut: sorted along each axis, tried after every fourth triangle. */
function cutSmall(work: usize, items: usize, from: i32, to: i32): i32 {
  const n = to - from;
  let best = <f64>Infinity;
  let bestAxis: usize = 0;
  let cut: i32 = n >> 1;
  const first: usize = items + ITEM * <usize>from;
  for (let axis: usize = 0; axis < 12; axis += 4) {
    sortItems(items, from, n, axis);
    let low = f32x4.splat(f32.MAX_VALUE);
    let high = f32x4.splat(-f32.MAX_VALUE);
    for (let i: i32 = n - 1; i > 0; i--) {
      const p = first + ITEM * <usize>i;
      low = f32x4.pmin(low, v128.load(p));
      high = f32x4.pmax(high, v128.load(p, 16));
      if ((i & 3) == 0) store<f64>(work + SORT_AREA + ((<usize>i >> 2) << 3), areaOf(low, high));
    }
    low = f32x4.splat(f32.MAX_VALUE);
    high = f32x4.splat(-f32.MAX_VALUE);
    for (let i: i32 = 0; i < n - 1; i++) {
      const p = first + ITEM * <usize>i;
      low = f32x4.pmin(low, v128.load(p));
      high = f32x4.pmax(high, v128.load(p, 16));
      const left = i + 1;
      if ((left & 3) != 0) continue;
      const cost =
        areaOf(low, high) * packsOf(left) + load<f64>(work + SORT_AREA + ((<usize>left >> 2) << 3)) * packsOf(n - left);
      if (cost < best) {
        best = cost;
        bestAxis = axis;
        cut = left;
      }
    }
  }
  if (bestAxis != 8) sortItems(items, from, n, bestAxis);
  return from + cut;
}

/**
 * Where a large range is best cut, by bins; its items are parted there, and both parts measured. −1 where all lie in one place.
 *
 * @param other takes what lies beyond the cut; `segment` keeps what lies before it
 */
function cutLarge(work: usize, items: usize, segment: usize, other: usize): i32 {
  const from = load<i32>(segment);
  const to = load<i32>(segment, 4);
  const cLow = v128.load(segment, 48);
  const extent = f32x4.sub(v128.load(segment, 64), cLow);
  // A little under the number of bins, so that the last centre falls in the last; 0 along axes of no extent.
  const bins = f32x4.splat(15.999);
  const scale = v128.bitselect(f32x4.div(bins, extent), f32x4.splat(0), f32x4.gt(extent, f32x4.splat(0)));
  const boxes = work + BIN_BOXES;
  const counts = work + BIN_COUNTS;
  const none = f32x4.splat(f32.MAX_VALUE);
  const nothing = f32x4.splat(-f32.MAX_VALUE);
  for (let i: usize = 0; i < 48; i++) {
    v128.store(boxes + (i << 5), none);
    v128.store(boxes + (i << 5), nothing, 16);
    store<i32>(counts + (i << 2), 0);
  }
  const end: usize = items + ITEM * <usize>to;
  const start: usize = items + ITEM * <usize>from;
  const most = i32x4.splat(BINS - 1);
  const n = to - from;
  let fromAxis: i32 = 0;
  let toAxis: i32 = 3;
  if (n > ALL_SIDES) {
    const x = f32x4.extract_lane(extent, 0);
    const y = f32x4.extract_lane(extent, 1);
    const z = f32x4.extract_lane(extent, 2);
    fromAxis = x >= y && x >= z ? 0 : y >= z ? 1 : 2;
    toAxis = fromAxis + 1;
    v128.store(work + SWEEP_COST, scale);
    const at: usize = <usize>fromAxis << 2;
    const low = load<f32>(segment + at, 48);
    const factor = load<f32>(work + SWEEP_COST + at);
    const box = boxes + (<usize>fromAxis << 9);
    const counted = counts + (<usize>fromAxis << 6);
    for (let p: usize = start; p < end; p += ITEM) {
      const c = load<f32>(p + at) + load<f32>(p + at, 16);
      const bin: usize = <usize>min(<i32>((c - low) * factor), BINS - 1);
      grow(box + (bin << 5), v128.load(p), v128.load(p, 16));
      store<i32>(counted + (bin << 2), load<i32>(counted + (bin << 2)) + 1);
    }
  } else {
    for (let p: usize = start; p < end; p += ITEM) {
      const a = v128.load(p);
      const b = v128.load(p, 16);
      const bin = i32x4.min_s(i32x4.trunc_sat_f32x4_s(f32x4.mul(f32x4.sub(f32x4.add(a, b), cLow), scale)), most);
      const x: usize = <usize>i32x4.extract_lane(bin, 0);
      const y: usize = <usize>i32x4.extract_lane(bin, 1) + 16;
      const z: usize = <usize>i32x4.extract_lane(bin, 2) + 32;
      grow(boxes + (x << 5), a, b);
      grow(boxes + (y << 5), a, b);
      grow(boxes + (z << 5), a, b);
      store<i32>(counts + (x << 2), load<i32>(counts + (x << 2)) + 1);
      store<i32>(counts + (y << 2), load<i32>(counts + (y << 2)) + 1);
      store<i32>(counts + (z << 2), load<i32>(counts + (z << 2)) + 1);
    }
  }
  let best = <f64>Infinity;
  let bestAxis: i32 = -1;
  let bestBin: i32 = 0;
  for (let axis: i32 = fromAxis; axis < toAxis; axis++) {
    const box = boxes + (<usize>axis << 9);
    const counted = counts + (<usize>axis << 6);
    let low = none;
    let high = nothing;
    let c: i32 = 0;
    for (let b: i32 = BINS - 1; b > 0; b--) {
      low = f32x4.pmin(low, v128.load(box + (<usize>b << 5)));
      high = f32x4.pmax(high, v128.load(box + (<usize>b << 5), 16));
      c += load<i32>(counted + (<usize>b << 2));
      store<f64>(work + SWEEP_COST + (<usize>b << 3), c > 0 ? areaOf(low, high) * packsOf(c) : -1);
    }
    low = none;
    high = nothing;
    c = 0;
    for (let b: i32 = 0; b < BINS - 1; b++) {
      low = f32x4.pmin(low, v128.load(box + (<usize>b << 5)));
      high = f32x4.pmax(high, v128.load(box + (<usize>b << 5), 16));
      c += load<i32>(counted + (<usize>b << 2));
      if (c == 0 || c == n) continue;
      const cost = areaOf(low, high) * packsOf(c) + load<f64>(work + SWEEP_COST + (<usize>(b + 1) << 3));
      if (cost < best) {
        best = cost;
        bestAxis = axis;
        bestBin = b;
      }
    }
  }
  if (bestAxis < 0) return -1;
  const at: usize = <usize>bestAxis << 2;
  const low = load<f32>(segment + at, 48);
  store<v128>(work + SWEEP_COST, scale);
  const factor = load<f32>(work + SWEEP_COST + at);
  let i = start;
  let j = end - ITEM;
  let lowL = none;
  let highL = nothing;
  let cLowL = none;
  let cHighL = nothing;
  let lowR = none;
  let highR = nothing;
  let cLowR = none;
  let cHighR = nothing;
  while (i <= j) {
    const a = v128.load(i);
    const b = v128.load(i, 16);
    const c = f32x4.add(a, b);
    if (<i32>((load<f32>(i + at) + load<f32>(i + at, 16) - low) * factor) <= bestBin) {
      lowL = f32x4.pmin(lowL, a);
      highL = f32x4.pmax(highL, b);
      cLowL = f32x4.pmin(cLowL, c);
      cHighL = f32x4.pmax(cHighL, c);
      i += ITEM;
    } else {
      lowR = f32x4.pmin(lowR, a);
      highR = f32x4.pmax(highR, b);
      cLowR = f32x4.pmin(cLowR, c);
      cHighR = f32x4.pmax(cHighR, c);
      v128.store(i, v128.load(j));
      v128.store(i, v128.load(j, 16), 16);
      v128.store(j, a);
      v128.store(j, b, 16);
      j -= ITEM;
    }
  }
  const cut = from + <i32>((i - start) / ITEM);
  keep(segment, from, cut, lowL, highL, cLowL, cHighL);
  keep(other, cut, to, lowR, highR, cLowR, cHighR);
  return cut;
}

function keep(segment: usize, from: i32, to: i32, low: v128, high: v128, cLow: v128, cHigh: v128): void {
  store<i32>(segment, from);
  store<i32>(segment, to, 4);
  v128.store(segment, low, 16);
  v128.store(segment, high, 32);
  v128.store(segment, cLow, 48);
  v128.store(segment, cHigh, 64);
}

@inline
function grow(box: usize, low: v128, high: v128): void {
  v128.store(box, f32x4.pmin(v128.load(box), low));
  v128.store(box, f32x4.pmax(v128.load(box, 16), high), 16);
}

/** Writes up to four triangles as a pack. */
function writePack(pack: usize, soup: usize, items: usize, from: i32, to: i32): void {
  for (let lane: i32 = 0; lane < 4; lane++) {
    const at: usize = pack + (<usize>lane << 2);
    if (from + lane < to) {
      const id = load<i32>(items + ITEM * <usize>(from + lane), 12);
      const s: usize = soup + 36 * <usize>id;
      for (let k: usize = 0; k < 9; k++) store<f32>(at + (k << 4), load<f32>(s + (k << 2)));
      store<i32>(at, id, IDS);
    } else {
      for (let k: usize = 0; k < 9; k++) store<i32>(at + (k << 4), 0x7fc00000);
      store<i32>(at, -1, IDS);
    }
  }
}

/**
 * @param soup 9 float32 a triangle
 * @param work {@link workBytes} of memory, given back afterwards
 * @param nodes room for `nodeRoom` nodes
 * @param packs room for `packRoom` packs
 * @param used two int32 to write the numbers of nodes and packs to
 * @returns 0, or −1 when there was too little room
 */
export function build(soup: usize, count: i32, work: usize, nodes: usize, nodeRoom: i32, packs: usize, packRoom: i32, used: usize): i32 {
  const items = work + ITEMS;
  for (let t: i32 = 0; t < count; t++) {
    const s: usize = soup + 36 * <usize>t;
    const p: usize = items + ITEM * <usize>t;
    // The fourth number of each load is the next corner's, of the last the one before it; it is written over.
    const a = v128.load(s);
    const b = v128.load(s, 12);
    const c = v128.shuffle<f32>(v128.load(s, 20), b, 1, 2, 3, 3);
    v128.store(p, f32x4.pmin(f32x4.pmin(a, b), c));
    v128.store(p, f32x4.pmax(f32x4.pmax(a, b), c), 16);
    store<i32>(p, t, 12);
    store<f32>(p, 0, 28);
  }
  const segments = work + SEGMENTS;
  let tasks = work + TASKS;
  const bottom = tasks;
  let nodeCount: i32 = 1;
  let packCount: i32 = 0;
  store<i32>(tasks, 0);
  store<i32>(tasks, 0, 4);
  store<i32>(tasks, count, 8);
  store<i32>(tasks, 0, 12);
  tasks += TASK;
  while (tasks > bottom) {
    tasks -= TASK;
    const node = load<i32>(tasks);
    const depth = load<i32>(tasks, 12);
    measure(segments, items, load<i32>(tasks, 4), load<i32>(tasks, 8));
    let n: i32 = 1;
    while (n < 4) {
      const chosen = toCut(segments, n);
      if (chosen < 0) break;
      const s = segments + SEGMENT * <usize>chosen;
      const from = load<i32>(s);
      const to = load<i32>(s, 4);
      const other = segments + SEGMENT * <usize>n;
      n++;
      if (depth < DEEP && to - from > SMALL && cutLarge(work, items, s, other) >= 0) continue;
      // Small; or all in one place, or too deep: halved, after a fourth.
      const cut = depth < DEEP && to - from <= SMALL ? cutSmall(work, items, from, to) : from + max(4, ((to - from) >> 1) & ~3);
      measure(other, items, cut, to);
      measure(s, items, from, cut);
    }
    const at: usize = nodes + NODE * <usize>node;
    for (let k: i32 = 0; k < 4; k++) {
      const lane: usize = at + (<usize>k << 2);
      if (k >= n) {
        for (let c: usize = 0; c < 3; c++) {
          store<f32>(lane + (c << 4), Infinity);
          store<f32>(lane + (c << 4), -Infinity, 48);
        }
        store<i32>(lane, 0, REFS);
        continue;
      }
      const s = segments + SEGMENT * <usize>k;
      for (let c: usize = 0; c < 3; c++) {
        store<f32>(lane + (c << 4), load<f32>(s + (c << 2), 16));
        store<f32>(lane + (c << 4), load<f32>(s + (c << 2), 32), 48);
      }
      const from = load<i32>(s);
      const to = load<i32>(s, 4);
      if (to - from <= 4) {
        if (packCount == packRoom) return -1;
        writePack(packs + PACK * <usize>packCount, soup, items, from, to);
        store<i32>(lane, ~packCount, REFS);
        packCount++;
      } else {
        if (nodeCount == nodeRoom) return -1;
        store<i32>(lane, nodeCount, REFS);
        store<i32>(tasks, nodeCount);
        store<i32>(tasks, from, 4);
        store<i32>(tasks, to, 8);
        store<i32>(tasks, depth + 1, 12);
        tasks += TASK;
        nodeCount++;
      }
    }
    v128.store(at, i64x2.splat(0), 112);
  }
  store<i32>(used, nodeCount);
  store<i32>(used, packCount, 4);
  return 0;
}
