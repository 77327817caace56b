import { ANSWER, IDS, LANES, NODE, PACK, REFS, SHEAR, STACK } from './layout';

/** Far sides of boxes are pushed out by this, so that rounding never loses a box a ray just touches (Ize 2013). */
const GROW: f32 = 1.0000006;

/** A ray that moves less than this along an axis, a unit of its length, stands still there. */
const STILL: f32 = 1e-30;
const FAR: f32 = 1e30;

@inline
function moving(d: f64): f32 {
  const x = <f32>d;
  return abs(x) < STILL ? 0 : x;
}

/** A place nearer to nothing than this is nothing: a ray that stands still across a plane there would seem to pass it on its way. */
const NOTHING: f32 = 1e-25;

@inline
export function standing(x: f64): f32 {
  const y = <f32>x;
  return abs(y) < NOTHING ? 0 : y;
}

/** What {@link trace} is asked. */
export const CLOSEST: i32 = 0;
export const ANY: i32 = 1;
export const ALL: i32 = 2;

/**
 * Follows one ray through a tree of boxes four wide: the slabs of four children at a time, triangles four at a time by the watertight
 * test (Woop, Benthin & Wald 2013), in float32 and in a fixed order of operations, so that the reference meets the same. How far away a
 * triangle is that the ray goes through is then worked out in double precision, with the ray as it was given: float32 is good for
 * through or past, but not for telling a surface from the one it starts on.
 *
 * @param scratch this thread’s own
 * @param ray eight float64
 * @param kind nearest hit, any hit, or all hits written to `out`, at most `room` of them
 * @returns pack · 4 + lane of what was met, its distance and weights in the scratch; −1 for nothing; for all hits, how many there are
 */
export function trace(nodes: usize, packs: usize, scratch: usize, ray: usize, kind: i32, out: usize, room: i32): i32 {
  const ox = standing(load<f64>(ray));
  const oy = standing(load<f64>(ray, 8));
  const oz = standing(load<f64>(ray, 16));
  const dx = moving(load<f64>(ray, 24));
  const dy = moving(load<f64>(ray, 32));
  const dz = moving(load<f64>(ray, 40));
  const tMin = <f32>load<f64>(ray, 48);
  const from64 = load<f64>(ray, 48);
  let best64 = load<f64>(ray, 56);
  shear(ray, scratch + SHEAR);
  const ax = abs(dx);
  const ay = abs(dy);
  const az = abs(dz);
  // Along an axis that a ray doesn't go along, far but finite: no slab is then not a number.
  const ix: f32 = dx == 0 ? FAR : 1 / dx;
  const iy: f32 = dy == 0 ? FAR : 1 / dy;
  const iz: f32 = dz == 0 ? FAR : 1 / dz;
  if (!(max(ax, max(ay, az)) >= STILL)) return kind == ALL ? 0 : -1;
  // Which side of a box the ray meets first, per axis: offsets of the near and of the far planes.
  const nx: usize = ix < 0 ? 48 : 0;
  const ny: usize = iy < 0 ? 64 : 16;
  const nz: usize = iz < 0 ? 80 : 32;
  const fx: usize = 48 - nx;
  const fy: usize = 80 - ny;
  const fz: usize = 112 - nz;
  const vox = f32x4.splat(ox);
  const voy = f32x4.splat(oy);
  const voz = f32x4.splat(oz);
  const vix = f32x4.splat(ix);
  const viy = f32x4.splat(iy);
  const viz = f32x4.splat(iz);
  const vgx = f32x4.splat(ix * GROW);
  const vgy = f32x4.splat(iy * GROW);
  const vgz = f32x4.splat(iz * GROW);
  const vMin = f32x4.splat(tMin);

  // The axis the ray goes along most becomes z; the other two keep their turn.
  let kx: usize;
  let ky: usize;
  let kz: usize;
  let sx: f32;
  let sy: f32;
  let sz: f32;
  let px: v128;
  let py: v128;
  let pz: v128;
  if (az >= ax && az >= ay) {
    kz = 32;
    sz = iz;
    pz = voz;
    if (dz < 0) {
      kx = 16;
      ky = 0;
      sx = dy;
      sy = dx;
      px = voy;
      py = vox;
    } else {
      kx = 0;
      ky = 16;
      sx = dx;
      sy = dy;
      px = vox;
      py = voy;
    }
  } else if (ax >= ay) {
    kz = 0;
    sz = ix;
    pz = vox;
    if (dx < 0) {
      kx = 32;
      ky = 16;
      sx = dz;
      sy = dy;
      px = voz;
      py = voy;
    } else {
      kx = 16;
      ky = 32;
      sx = dy;
      sy = dz;
      px = voy;
      py = voz;
    }
  } else {
    kz = 16;
    sz = iy;
    pz = voy;
    if (dy < 0) {
      kx = 0;
      ky = 32;
      sx = dx;
      sy = dz;
      px = vox;
      py = voz;
    } else {
      kx = 32;
      ky = 0;
      sx = dz;
      sy = dx;
      px = voz;
      py = vox;
    }
  }
  const vsx = f32x4.splat(sx * sz);
  const vsy = f32x4.splat(sy * sz);
  const vsz = f32x4.splat(sz);
  const zero = f32x4.splat(0);
  const clear = i32x4.splat(~3);
  const missed = i32x4.splat(-1);
  const lanes = i32x4(0, 1, 2, 3);

  let best = above(best64);
  let vBest = f32x4.splat(best);
  // The bits of a distance that is not negative compare like it.
  let limit: i32 = reinterpret<i32>(best) | 3;
  let key: i32 = 0;
  let found: i32 = -1;
  let foundId: i32 = -1;
  let count: i32 = 0;
  const bottom: usize = scratch + STACK;
  let top: usize = bottom;
  let ref: i32 = 0;
  while (true) {
    if (ref >= 0) {
      const n: usize = nodes + <usize>ref * NODE;
      const near = f32x4.pmax(
        f32x4.pmax(f32x4.mul(f32x4.sub(v128.load(n + nx), vox), vix), f32x4.mul(f32x4.sub(v128.load(n + ny), voy), viy)),
        f32x4.pmax(f32x4.mul(f32x4.sub(v128.load(n + nz), voz), viz), vMin),
      );
      const far = f32x4.pmin(
        f32x4.pmin(f32x4.mul(f32x4.sub(v128.load(n + fx), vox), vgx), f32x4.mul(f32x4.sub(v128.load(n + fy), voy), vgy)),
        f32x4.pmin(f32x4.mul(f32x4.sub(v128.load(n + fz), voz), vgz), vBest),
      );
      const hit = f32x4.le(near, far);
      const mask: i32 = i32x4.bitmask(hit);
      if (mask != 0) {
        if ((mask & (mask - 1)) == 0) {
          ref = load<i32>(n + ((<usize>ctz(mask)) << 2), REFS);
          continue;
        }
        // Distance above, child in the last two bits; −1 for children that are missed. Sorted without a branch, the farthest first.
        let k = v128.or(v128.and(f32x4.pmax(zero, near), clear), lanes);
        k = v128.bitselect(k, missed, hit);
        let s = v128.shuffle<i32>(k, k, 1, 0, 3, 2);
        k = v128.shuffle<i32>(i32x4.max_s(k, s), i32x4.min_s(k, s), 0, 5, 2, 7);
        s = v128.shuffle<i32>(k, k, 2, 3, 0, 1);
        k = v128.shuffle<i32>(i32x4.max_s(k, s), i32x4.min_s(k, s), 0, 1, 6, 7);
        s = v128.shuffle<i32>(k, k, 0, 2, 1, 3);
        k = v128.shuffle<i32>(i32x4.max_s(k, s), i32x4.min_s(k, s), 0, 1, 6, 3);
        // All are put by with the node they belong to; what lies beyond the nearest is written over.
        const node = i32x4.splat(<i32>n);
        v128.store(top, v128.shuffle<i32>(k, node, 0, 4, 1, 5));
        v128.store(top, v128.shuffle<i32>(k, node, 2, 6, 3, 7), 16);
        top += (<usize>(popcnt(mask) - 1)) << 3;
        ref = load<i32>(n + ((<usize>(load<i32>(top) & 3)) << 2), REFS);
        continue;
      }
    } else {
      const p: usize = packs + <usize>~ref * PACK;
      const a2 = f32x4.sub(v128.load(p + kz), pz);
      const b2 = f32x4.sub(v128.load(p + kz, 48), pz);
      const c2 = f32x4.sub(v128.load(p + kz, 96), pz);
      const a0 = f32x4.sub(f32x4.sub(v128.load(p + kx), px), f32x4.mul(vsx, a2));
      const a1 = f32x4.sub(f32x4.sub(v128.load(p + ky), py), f32x4.mul(vsy, a2));
      const b0 = f32x4.sub(f32x4.sub(v128.load(p + kx, 48), px), f32x4.mul(vsx, b2));
      const b1 = f32x4.sub(f32x4.sub(v128.load(p + ky, 48), py), f32x4.mul(vsy, b2));
      const c0 = f32x4.sub(f32x4.sub(v128.load(p + kx, 96), px), f32x4.mul(vsx, c2));
      const c1 = f32x4.sub(f32x4.sub(v128.load(p + ky, 96), py), f32x4.mul(vsy, c2));
      let u = f32x4.sub(f32x4.mul(c0, b1), f32x4.mul(c1, b0));
      let v = f32x4.sub(f32x4.mul(a0, c1), f32x4.mul(a1, c0));
      let w = f32x4.sub(f32x4.mul(b0, a1), f32x4.mul(b1, a0));
      // Outside where two signs differ; most packs end here.
      const least = f32x4.pmin(u, f32x4.pmin(v, w));
      const most = f32x4.pmax(u, f32x4.pmax(v, w));
      let ok = v128.or(f32x4.ge(least, zero), f32x4.le(most, zero));
      if (v128.any_true(ok)) {
        // A ray over an edge, as far as float32 can tell: that edge is looked at again in double precision, in both its triangles alike.
        const onU = f32x4.eq(u, zero);
        const onV = f32x4.eq(v, zero);
        const onW = f32x4.eq(w, zero);
        if (v128.any_true(v128.or(v128.or(onU, onV), onW))) {
          u = v128.bitselect(differences(c0, b1, c1, b0), u, onU);
          v = v128.bitselect(differences(a0, c1, a1, c0), v, onV);
          w = v128.bitselect(differences(b0, a1, b1, a0), w, onW);
          ok = v128.or(f32x4.ge(f32x4.pmin(u, f32x4.pmin(v, w)), zero), f32x4.le(f32x4.pmax(u, f32x4.pmax(v, w)), zero));
        }
        const det = f32x4.add(f32x4.add(u, v), w);
        const t = f32x4.div(f32x4.mul(f32x4.add(f32x4.add(f32x4.mul(u, a2), f32x4.mul(v, b2)), f32x4.mul(w, c2)), vsz), det);
        ok = v128.and(ok, v128.and(f32x4.gt(t, vMin), f32x4.le(t, vBest)));
        let hits: i32 = i32x4.bitmask(ok);
        while (hits != 0) {
          const lane: usize = <usize>ctz(hits) << 2;
          hits &= hits - 1;
          const d = locate(p + lane, ray, scratch + SHEAR);
          if (!(d > from64 && d <= best64)) continue;
          if (kind == ALL) {
            if (count < room) store<i32>(out + (<usize>count << 2), (~ref << 2) | <i32>(lane >> 2));
            count++;
            continue;
          }
          const id = load<i32>(p + lane, IDS);
          // Equal distances go to the lower number.
          if (d == best64 && found >= 0 && id > foundId) continue;
          best64 = d;
          found = (~ref << 2) | <i32>(lane >> 2);
          foundId = id;
          store<f64>(scratch, d, ANSWER);
          store<f64>(scratch, weightU, ANSWER + 8);
          store<f64>(scratch, weightV, ANSWER + 16);
          if (kind == ANY) return found;
          best = above(d);
          vBest = f32x4.splat(best);
          limit = reinterpret<i32>(best) | 3;
        }
      }
    }
    // What was put by last and is still nearer than what was found.
    while (true) {
      if (top == bottom) return kind == ALL ? count : found;
      top -= 8;
      key = load<i32>(top);
      if (key <= limit) break;
    }
    ref = load<i32>(<usize>load<u32>(top, 4) + ((<usize>(key & 3)) << 2), REFS);
  }
}

let weightU: f64 = 0;
let weightV: f64 = 0;

/** Weights this far out of a triangle are of a ray in its own plane, or nearly. */
const ASTRAY: f64 = 0.01;

/**
 * How a ray is sheared so that it runs along its longest axis, in double precision: three factors, then where the numbers of the three axes
 * lie in a pack.
 */
function shear(ray: usize, to: usize): void {
  const dx = load<f64>(ray, 24);
  const dy = load<f64>(ray, 32);
  const dz = load<f64>(ray, 40);
  const ax = abs(dx);
  const ay = abs(dy);
  const az = abs(dz);
  const k: usize = az >= ax && az >= ay ? 2 : ax >= ay ? 0 : 1;
  let i: usize = k == 2 ? 0 : k + 1;
  let j: usize = i == 2 ? 0 : i + 1;
  const d = load<f64>(ray + (k << 3), 24);
  if (d < 0) {
    const swap = i;
    i = j;
    j = swap;
  }
  const z = 1 / d;
  store<f64>(to, load<f64>(ray + (i << 3), 24) * z);
  store<f64>(to, load<f64>(ray + (j << 3), 24) * z, 8);
  store<f64>(to, z, 16);
  store<u32>(to, <u32>i, 24);
  store<u32>(to, <u32>j, 28);
  store<u32>(to, <u32>k, 32);
}

/**
 * Distance and weights of a ray on a triangle it goes through, by the watertight test in double precision; the weights in `weightU` and
 * `weightV`, held to the triangle. On an edge both its triangles give the same distance, to the bit.
 *
 * @param c the triangle’s first number in its pack
 * @param s the ray’s {@link shear}
 */
function locate(c: usize, ray: usize, s: usize): f64 {
  const sx = load<f64>(s);
  const sy = load<f64>(s, 8);
  const sz = load<f64>(s, 16);
  const i: usize = load<u32>(s, 24);
  const j: usize = load<u32>(s, 28);
  const k: usize = load<u32>(s, 32);
  const x = load<f64>(ray + (i << 3));
  const y = load<f64>(ray + (j << 3));
  const z = load<f64>(ray + (k << 3));
  const cx = c + (i << 4);
  const cy = c + (j << 4);
  const cz = c + (k << 4);
  const a2 = <f64>load<f32>(cz) - z;
  const b2 = <f64>load<f32>(cz, 48) - z;
  const c2 = <f64>load<f32>(cz, 96) - z;
  const a0 = <f64>load<f32>(cx) - x - sx * a2;
  const a1 = <f64>load<f32>(cy) - y - sy * a2;
  const b0 = <f64>load<f32>(cx, 48) - x - sx * b2;
  const b1 = <f64>load<f32>(cy, 48) - y - sy * b2;
  const c0 = <f64>load<f32>(cx, 96) - x - sx * c2;
  const c1 = <f64>load<f32>(cy, 96) - y - sy * c2;
  const u = c0 * b1 - c1 * b0;
  const v = a0 * c1 - a1 * c0;
  const w = b0 * a1 - b1 * a0;
  const det = u + v + w;
  const scale = 1 / det;
  // Of the second and the third corner; the first has what is left.
  const wv = v * scale;
  const ww = w * scale;
  weightU = wv > 0 ? (wv < 1 ? wv : 1) : 0;
  weightV = ww > 0 ? (ww < 1 - weightU ? ww : 1 - weightU) : 0;
  if (wv > -ASTRAY && ww > -ASTRAY && wv + ww < 1 + ASTRAY) return (sz * (u * a2 + v * b2 + w * c2)) / det;
  // Hardly through it at all: where the ray passes the place of those weights.
  const rest = 1 - weightU - weightV;
  return sz * (rest * a2 + weightU * b2 + weightV * c2);
}

/** The least float32 that is not below a number. */
@inline
function above(x: f64): f32 {
  const y = <f32>x;
  if (<f64>y >= x) return y;
  const bits = reinterpret<i32>(y);
  return reinterpret<f32>(y < 0 ? bits - 1 : y == 0 ? 1 : bits + 1);
}

/** a·b − c·d in double precision, rounded. */
function differences(a: v128, b: v128, c: v128, d: v128): v128 {
  const low = f64x2.sub(
    f64x2.mul(f64x2.promote_low_f32x4(a), f64x2.promote_low_f32x4(b)),
    f64x2.mul(f64x2.promote_low_f32x4(c), f64x2.promote_low_f32x4(d)),
  );
  const a2 = v128.shuffle<f32>(a, a, 2, 3, 2, 3);
  const b2 = v128.shuffle<f32>(b, b, 2, 3, 2, 3);
  const c2 = v128.shuffle<f32>(c, c, 2, 3, 2, 3);
  const d2 = v128.shuffle<f32>(d, d, 2, 3, 2, 3);
  const high = f64x2.sub(
    f64x2.mul(f64x2.promote_low_f32x4(a2), f64x2.promote_low_f32x4(b2)),
    f64x2.mul(f64x2.promote_low_f32x4(c2), f64x2.promote_low_f32x4(d2)),
  );
  return v128.shuffle<f32>(f32x4.demote_f64x2_zero(low), f32x4.demote_f64x2_zero(high), 0, 1, 4, 5);
}
