import { ANSWER, IDS, NODE, PACK, REFS, STACK } from './layout';
import { ANY, standing, trace } from './trace';

/** An instance: its inverse place as 12 float64, column by column, then where its tree’s nodes and packs begin. */
const RECORD: usize = 112;
const NODES_AT: usize = 96;
const PACKS_AT: usize = 100;

/** In the scratch, past what the tree over the instances needs: the turned ray, and the scratch of the tree that is entered. */
const TURNED: usize = 8192;
const WITHIN: usize = 8256;
/** Beside the answer: which instance was met. */
export const MET: usize = 152;

/** A ray in an instance’s own space. Its direction is not made unit, so distances along it stay what they are. */
function turn(ray: usize, record: usize, best: f64, to: usize): void {
  const ox = load<f64>(ray);
  const oy = load<f64>(ray, 8);
  const oz = load<f64>(ray, 16);
  const dx = load<f64>(ray, 24);
  const dy = load<f64>(ray, 32);
  const dz = load<f64>(ray, 40);
  for (let k: usize = 0; k < 24; k += 8) {
    const a = load<f64>(record + k);
    const b = load<f64>(record + k, 24);
    const c = load<f64>(record + k, 48);
    store<f64>(to + k, a * ox + b * oy + c * oz + load<f64>(record + k, 72));
    store<f64>(to + k, a * dx + b * dy + c * dz, 24);
  }
  store<f64>(to, load<f64>(ray, 48), 48);
  store<f64>(to, best, 56);
}

/**
 * Follows one ray through trees that stand in many places: a tree over the boxes of the instances, each of which is a tree of its own.
 *
 * @param nodes @param packs the tree over the instances, in whose packs the numbers are those of instances
 * @param records {@link RECORD} bytes an instance
 * @returns pack · 4 + lane within the tree of the instance that was met, −1 for nothing; the instance in the scratch
 */
export function instanced(nodes: usize, packs: usize, records: usize, scratch: usize, ray: usize, kind: i32): i32 {
  const ox = standing(load<f64>(ray));
  const oy = standing(load<f64>(ray, 8));
  const oz = standing(load<f64>(ray, 16));
  const dx = <f32>load<f64>(ray, 24);
  const dy = <f32>load<f64>(ray, 32);
  const dz = <f32>load<f64>(ray, 40);
  const ix = f32x4.splat(abs(dx) < 1e-30 ? 1e30 : 1 / dx);
  const iy = f32x4.splat(abs(dy) < 1e-30 ? 1e30 : 1 / dy);
  const iz = f32x4.splat(abs(dz) < 1e-30 ? 1e30 : 1 / dz);
  const vox = f32x4.splat(ox);
  const voy = f32x4.splat(oy);
  const voz = f32x4.splat(oz);
  let best = load<f64>(ray, 56);
  const tMin = f32x4.splat(<f32>load<f64>(ray, 48));
  let found: i32 = -1;
  let foundInstance: i32 = -1;
  const bottom: usize = scratch + STACK + 16;
  let top: usize = bottom;
  let ref: i32 = 0;
  while (true) {
    if (ref >= 0) {
      const n: usize = nodes + <usize>ref * NODE;
      // The boxes are a little too large already, so nothing is lost by rounding.
      const x0 = f32x4.mul(f32x4.sub(v128.load(n), vox), ix);
      const x1 = f32x4.mul(f32x4.sub(v128.load(n, 48), vox), ix);
      const y0 = f32x4.mul(f32x4.sub(v128.load(n, 16), voy), iy);
      const y1 = f32x4.mul(f32x4.sub(v128.load(n, 64), voy), iy);
      const z0 = f32x4.mul(f32x4.sub(v128.load(n, 32), voz), iz);
      const z1 = f32x4.mul(f32x4.sub(v128.load(n, 80), voz), iz);
      const near = f32x4.pmax(f32x4.pmax(f32x4.pmin(x0, x1), f32x4.pmin(y0, y1)), f32x4.pmax(f32x4.pmin(z0, z1), tMin));
      const far = f32x4.pmin(f32x4.pmin(f32x4.pmax(x0, x1), f32x4.pmax(y0, y1)), f32x4.pmax(z0, z1));
      const open = v128.and(
        f32x4.le(near, f32x4.mul(far, f32x4.splat(1.000002))),
        f32x4.le(f32x4.mul(near, f32x4.splat(0.999998)), f32x4.splat(<f32>best)),
      );
      // Children that aren't there lie infinitely far on both sides.
      let mask: i32 = i32x4.bitmask(v128.and(open, f32x4.lt(v128.load(n), f32x4.splat(Infinity))));
      while (mask != 0) {
        store<i32>(top, load<i32>(n + (<usize>ctz(mask) << 2), REFS));
        mask &= mask - 1;
        top += 4;
      }
    } else {
      const p: usize = packs + <usize>~ref * PACK;
      for (let lane: usize = 0; lane < 16; lane += 4) {
        const instance = load<i32>(p + lane, IDS);
        if (instance < 0) break;
        const record = records + RECORD * <usize>instance;
        turn(ray, record, best, scratch + TURNED);
        const within = scratch + WITHIN;
        const hit = trace(<usize>load<u32>(record, NODES_AT), <usize>load<u32>(record, PACKS_AT), within, scratch + TURNED, kind, 0, 0);
        if (hit < 0) continue;
        const d = load<f64>(within, ANSWER);
        if (d == best && found >= 0 && instance > foundInstance) continue;
        best = d;
        found = hit;
        foundInstance = instance;
        store<f64>(scratch, d, ANSWER);
        store<f64>(scratch, load<f64>(within, ANSWER + 8), ANSWER + 8);
        store<f64>(scratch, load<f64>(within, ANSWER + 16), ANSWER + 16);
        store<i32>(scratch, instance, MET);
        if (kind == ANY) return found;
      }
    }
    if (top == bottom) return found;
    top -= 4;
    ref = load<i32>(top);
  }
}
