import { ANSWER, IDS, NODE, PACK, REFS, STACK } from './layout';

let pu: f64 = 0;
let pv: f64 = 0;

/** Squared distance to one triangle of a pack, in double precision; regions after Ericson 2005, §5.1.5. Weights in `pu`, `pv`. */
function toTriangle(c: usize, x: f64, y: f64, z: f64): f64 {
  const cax = <f64>load<f32>(c);
  const cay = <f64>load<f32>(c, 16);
  const caz = <f64>load<f32>(c, 32);
  const abx = <f64>load<f32>(c, 48) - cax;
  const aby = <f64>load<f32>(c, 64) - cay;
  const abz = <f64>load<f32>(c, 80) - caz;
  const acx = <f64>load<f32>(c, 96) - cax;
  const acy = <f64>load<f32>(c, 112) - cay;
  const acz = <f64>load<f32>(c, 128) - caz;
  const apx = x - cax;
  const apy = y - cay;
  const apz = z - caz;
  const d1 = abx * apx + aby * apy + abz * apz;
  const d2 = acx * apx + acy * apy + acz * apz;
  let u: f64 = 0;
  let v: f64 = 0;
  if (d1 > 0 || d2 > 0) {
    const bpx = x - <f64>load<f32>(c, 48);
    const bpy = y - <f64>load<f32>(c, 64);
    const bpz = z - <f64>load<f32>(c, 80);
    const d3 = abx * bpx + aby * bpy + abz * bpz;
    const d4 = acx * bpx + acy * bpy + acz * bpz;
    const cpx = x - <f64>load<f32>(c, 96);
    const cpy = y - <f64>load<f32>(c, 112);
    const cpz = z - <f64>load<f32>(c, 128);
    const d5 = abx * cpx + aby * cpy + abz * cpz;
    const d6 = acx * cpx + acy * cpy + acz * cpz;
    const vc = d1 * d4 - d3 * d2;
    const vb = d5 * d2 - d1 * d6;
    const va = d3 * d6 - d5 * d4;
    if (d3 >= 0 && d4 <= d3) u = 1;
    else if (d6 >= 0 && d5 <= d6) v = 1;
    else if (vc <= 0 && d1 >= 0 && d3 <= 0) u = d1 / (d1 - d3);
    else if (vb <= 0 && d2 >= 0 && d6 <= 0) v = d2 / (d2 - d6);
    else if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
      v = (d4 - d3) / (d4 - d3 + (d5 - d6));
      u = 1 - v;
    } else {
      const denominator = 1 / (va + vb + vc);
      u = vb * denominator;
      v = vc * denominator;
    }
  }
  pu = u;
  pv = v;
  const ex = apx - u * abx - v * acx;
  const ey = apy - u * aby - v * acy;
  const ez = apz - u * abz - v * acz;
  return ex * ex + ey * ey + ez * ez;
}

@inline
function gap(low: v128, high: v128, x: v128): v128 {
  const e = f64x2.pmax(f64x2.pmax(f64x2.splat(0), f64x2.sub(low, x)), f64x2.sub(x, high));
  return f64x2.mul(e, e);
}

/** Squared distances from a point to the boxes of two children of a node. */
@inline
function gaps(n: usize, x: v128, y: v128, z: v128): v128 {
  const gx = gap(f64x2.promote_low_f32x4(v128.load64_zero(n)), f64x2.promote_low_f32x4(v128.load64_zero(n, 48)), x);
  const gy = gap(f64x2.promote_low_f32x4(v128.load64_zero(n, 16)), f64x2.promote_low_f32x4(v128.load64_zero(n, 64)), y);
  const gz = gap(f64x2.promote_low_f32x4(v128.load64_zero(n, 32)), f64x2.promote_low_f32x4(v128.load64_zero(n, 80)), z);
  return f64x2.add(f64x2.add(gx, gy), gz);
}

/**
 * The triangle nearest to a point, in double precision on float32 corners.
 *
 * @param reach squared, how far is looked
 * @returns pack · 4 + lane, −1 for nothing within reach; squared distance and weights in the scratch, float64
 */
export function nearest(nodes: usize, packs: usize, scratch: usize, px: f64, py: f64, pz: f64, reach: f64): i32 {
  const x = f64x2.splat(px);
  const y = f64x2.splat(py);
  const z = f64x2.splat(pz);
  let best = reach;
  let found: i32 = -1;
  let foundId: i32 = -1;
  let fu: f64 = 0;
  let fv: f64 = 0;
  // Waiting: where it leads, and its squared distance; 16 bytes.
  const bottom: usize = scratch + STACK;
  let top: usize = bottom;
  let ref: i32 = 0;
  while (true) {
    if (ref >= 0) {
      const n: usize = nodes + <usize>ref * NODE;
      const from = top;
      for (let half: usize = 0; half < 16; half += 8) {
        const g = gaps(n + half, x, y, z);
        for (let k: usize = 0; k < 2; k++) {
          const d = k == 0 ? f64x2.extract_lane(g, 0) : f64x2.extract_lane(g, 1);
          if (!(d <= best)) continue;
          // A box that isn't there lies infinitely far.
          if (d == Infinity) continue;
          let at = top;
          while (at > from && load<f64>(at - 8) < d) {
            v128.store(at, v128.load(at - 16));
            at -= 16;
          }
          store<i32>(at, load<i32>(n + half + (k << 2), REFS));
          store<f64>(at, d, 8);
          top += 16;
        }
      }
    } else {
      const p: usize = packs + <usize>~ref * PACK;
      for (let lane: usize = 0; lane < 4; lane++) {
        const id = load<i32>(p + (lane << 2), IDS);
        if (id < 0) break;
        const d = toTriangle(p + (lane << 2), px, py, pz);
        if (d < best || (d == best && (found < 0 || id < foundId))) {
          best = d;
          found = (~ref << 2) | <i32>lane;
          foundId = id;
          fu = pu;
          fv = pv;
        }
      }
    }
    while (true) {
      if (top == bottom) {
        store<f64>(scratch, best, ANSWER);
        store<f64>(scratch, fu, ANSWER + 8);
        store<f64>(scratch, fv, ANSWER + 16);
        return found;
      }
      top -= 16;
      if (load<f64>(top, 8) <= best) break;
    }
    ref = load<i32>(top);
  }
}
