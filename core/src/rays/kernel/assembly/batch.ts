import { RAY } from './layout';
import { trace } from './trace';

/** Passes of the sort: three of ten bits. */
const BUCKETS: i32 = 1024;

/** Ten bits with two empty ones between each. */
function spread(x: u32): u32 {
  let v = x;
  v = (v | (v << 16)) & 0x030000ff;
  v = (v | (v << 8)) & 0x0300f00f;
  v = (v | (v << 4)) & 0x030c30c3;
  return (v | (v << 2)) & 0x09249249;
}

/** A ray’s origin as a vector. */
@inline
function placeOf(r: usize): v128 {
  return f32x4(<f32>load<f64>(r), <f32>load<f64>(r, 8), <f32>load<f64>(r, 16), 0);
}

/**
 * The order in which rays of a batch are followed: by the octant they go into and by the place they start from along a space-filling
 * curve (Morton), so that neighbours go the same way through the tree.
 *
 * @param keys 8 bytes a ray, twice: key and number, and room to sort them
 * @returns where the sorted ones lie
 */
function order(rays: usize, count: i32, keys: usize): usize {
  let low = f32x4.splat(f32.MAX_VALUE);
  let high = f32x4.splat(-f32.MAX_VALUE);
  for (let i: i32 = 0; i < count; i++) {
    const o = placeOf(rays + RAY * <usize>i);
    low = f32x4.pmin(low, o);
    high = f32x4.pmax(high, o);
  }
  const d = f32x4.sub(high, low);
  const extent = max(f32x4.extract_lane(d, 0), max(f32x4.extract_lane(d, 1), f32x4.extract_lane(d, 2)));
  const scale = f32x4.splat(extent > 0 ? <f32>511.99 / extent : 0);
  for (let i: i32 = 0; i < count; i++) {
    const r = rays + RAY * <usize>i;
    const cell = i32x4.trunc_sat_f32x4_u(f32x4.mul(f32x4.sub(placeOf(r), low), scale));
    const octant: u32 = (load<f64>(r, 24) < 0 ? 1 : 0) | (load<f64>(r, 32) < 0 ? 2 : 0) | (load<f64>(r, 40) < 0 ? 4 : 0);
    const key: u32 =
      (octant << 27) |
      (spread(i32x4.extract_lane(cell, 0) & 511) |
        (spread(i32x4.extract_lane(cell, 1) & 511) << 1) |
        (spread(i32x4.extract_lane(cell, 2) & 511) << 2));
    store<u32>(keys + ((<usize>i) << 3), key);
    store<i32>(keys + ((<usize>i) << 3), i, 4);
  }
  const other: usize = keys + ((<usize>count) << 3);
  const starts: usize = other + ((<usize>count) << 3);
  let a = keys;
  let b = other;
  for (let shift: u32 = 0; shift < 30; shift += 10) {
    memory.fill(starts, 0, (<usize>BUCKETS) << 2);
    for (let i: i32 = 0; i < count; i++) {
      const at = starts + ((<usize>((load<u32>(a + ((<usize>i) << 3)) >> shift) & 1023)) << 2);
      store<i32>(at, load<i32>(at) + 1);
    }
    let sum: i32 = 0;
    for (let k: i32 = 0; k < BUCKETS; k++) {
      const at = starts + ((<usize>k) << 2);
      const n = load<i32>(at);
      store<i32>(at, sum);
      sum += n;
    }
    for (let i: i32 = 0; i < count; i++) {
      const from = a + ((<usize>i) << 3);
      const at = starts + ((<usize>((load<u32>(from) >> shift) & 1023)) << 2);
      const to = load<i32>(at);
      store<i32>(at, to + 1);
      store<u64>(b + ((<usize>to) << 3), load<u64>(from));
    }
    const c = a;
    a = b;
    b = c;
  }
  return a;
}

/**
 * Follows many rays.
 *
 * @param rays {@link RAY} bytes each
 * @param out int32 each: pack · 4 + lane, −1 for nothing
 * @param keys 16 bytes a ray and 4096 more, 0 for rays that lie in a good order already
 */
export function batch(nodes: usize, packs: usize, scratch: usize, rays: usize, count: i32, out: usize, kind: i32, keys: usize): void {
  const sorted: usize = keys != 0 ? order(rays, count, keys) : 0;
  for (let k: i32 = 0; k < count; k++) {
    const i: usize = sorted != 0 ? <usize>load<i32>(sorted + ((<usize>k) << 3), 4) : <usize>k;
    const hit = trace(nodes, packs, scratch, rays + RAY * i, kind, 0, 0);
    store<i32>(out + (i << 2), hit);
  }
}
