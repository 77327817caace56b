/** Weights this far out of a triangle are of a ray in its own plane, or nearly. */
const ASTRAY = 0.01;

/**
 * Distance and weights of a ray on a triangle that it goes through, by the watertight test (Woop, Benthin & Wald 2013) in double precision;
 * the weights are held to the triangle. On an edge both its triangles give the same distance, to the bit. The kernel does the same in the
 * same order.
 *
 * @param q packs @param c the triangle's first number in them
 * @param out distance, weights of the second and third corner
 */
export function locate(
  q: Float32Array,
  c: number,
  ox: number,
  oy: number,
  oz: number,
  dx: number,
  dy: number,
  dz: number,
  out: Float64Array,
): void {
  const ax = Math.abs(dx);
  const ay = Math.abs(dy);
  const az = Math.abs(dz);
  const k = az >= ax && az >= ay ? 2 : ax >= ay ? 0 : 1;
  const o = [ox, oy, oz];
  const d = [dx, dy, dz];
  let i = k === 2 ? 0 : k + 1;
  let j = i === 2 ? 0 : i + 1;
  if (d[k] < 0) [i, j] = [j, i];
  const sz = 1 / d[k];
  const sx = d[i] * sz;
  const sy = d[j] * sz;
  const [x, y, z] = [o[i], o[j], o[k]];
  const [cx, cy, cz] = [c + 4 * i, c + 4 * j, c + 4 * k];
  const a2 = q[cz] - z;
  const b2 = q[cz + 12] - z;
  const c2 = q[cz + 24] - z;
  const a0 = q[cx] - x - sx * a2;
  const a1 = q[cy] - y - sy * a2;
  const b0 = q[cx + 12] - x - sx * b2;
  const b1 = q[cy + 12] - y - sy * b2;
  const c0 = q[cx + 24] - x - sx * c2;
  const c1 = q[cy + 24] - y - sy * c2;
  const u = c0 * b1 - c1 * b0;
  const v = a0 * c1 - a1 * c0;
  const w = b0 * a1 - b1 * a0;
  const det = u + v + w;
  const scale = 1 / det;
  const wv = v * scale;
  const ww = w * scale;
  const wu = wv > 0 ? (wv < 1 ? wv : 1) : 0;
  const wt = ww > 0 ? (ww < 1 - wu ? ww : 1 - wu) : 0;
  out[1] = wu;
  out[2] = wt;
  if (wv > -ASTRAY && ww > -ASTRAY && wv + ww < 1 + ASTRAY) out[0] = (sz * (u * a2 + v * b2 + w * c2)) / det;
  // Hardly through it at all: where the ray passes the place of those weights.
  else out[0] = sz * ((1 - wu - wt) * a2 + wu * b2 + wt * c2);
}
