import { instanced } from './instances';
import { ONE } from './layout';
import { trace } from './trace';

export { batch } from './batch';
export { build, workBytes } from './build';
export { nearest } from './nearest';
export { selfPairs } from './pairs';

/** Lays a ray down in the scratch. */
@inline
function laid(scratch: usize, ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tMin: f64, tMax: f64): usize {
  const ray = scratch + ONE;
  store<f64>(ray, ox);
  store<f64>(ray, oy, 8);
  store<f64>(ray, oz, 16);
  store<f64>(ray, dx, 24);
  store<f64>(ray, dy, 32);
  store<f64>(ray, dz, 40);
  store<f64>(ray, tMin, 48);
  store<f64>(ray, tMax, 56);
  return ray;
}

/**
 * One ray: nearest hit with tMin < t ≤ tMax, any, or all, in no order, of which at most `room` are written to `out`; see {@link trace}.
 */
export function ask(
  nodes: usize,
  packs: usize,
  scratch: usize,
  ox: f64,
  oy: f64,
  oz: f64,
  dx: f64,
  dy: f64,
  dz: f64,
  tMin: f64,
  tMax: f64,
  kind: i32,
  out: usize,
  room: i32,
): i32 {
  return trace(nodes, packs, scratch, laid(scratch, ox, oy, oz, dx, dy, dz, tMin, tMax), kind, out, room);
}

/** Nearest hit, or any, among trees that stand in many places; see {@link instanced}. */
export function askInstances(
  nodes: usize,
  packs: usize,
  records: usize,
  scratch: usize,
  ox: f64,
  oy: f64,
  oz: f64,
  dx: f64,
  dy: f64,
  dz: f64,
  tMin: f64,
  tMax: f64,
  kind: i32,
): i32 {
  return instanced(nodes, packs, records, scratch, laid(scratch, ox, oy, oz, dx, dy, dz, tMin, tMax), kind);
}
