import { ALL, ANY, CLOSEST, trace } from './trace';

export { batch, orderBytes } from './batch';
export { build, workBytes } from './build';
export { nearest } from './nearest';

/** Nearest hit with tMin < t ≤ tMax; see {@link trace}. */
export function closest(
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
): i32 {
  return trace(nodes, packs, scratch, <f32>ox, <f32>oy, <f32>oz, <f32>dx, <f32>dy, <f32>dz, <f32>tMin, <f32>tMax, CLOSEST, 0, 0);
}

/** Whether anything lies between. */
export function any(
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
): i32 {
  return trace(nodes, packs, scratch, <f32>ox, <f32>oy, <f32>oz, <f32>dx, <f32>dy, <f32>dz, <f32>tMin, <f32>tMax, ANY, 0, 0);
}

/** Everything met between, in no order; how many there are, of which at most `room` are written. */
export function all(
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
  out: usize,
  room: i32,
): i32 {
  return trace(nodes, packs, scratch, <f32>ox, <f32>oy, <f32>oz, <f32>dx, <f32>dy, <f32>dz, <f32>tMin, <f32>tMax, ALL, out, room);
}
