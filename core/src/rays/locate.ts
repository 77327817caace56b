/** Weights this far out of a triangle are of a ray in its own plane, or nearly. */
const ASTRAY = 0.01;

/**
 * Distance and weights of a ray on a triangle that it goes through, in double precision (Möller & Trumbore 1997); the weights are held to
 * the triangle. The kernel does the same in the same order.
 *
 * @param q packs @param c the triangle's first number in them
 * @param out distance, weights of the second and third corner
 */
export function locate(
  q: Float32Array,
  c: number,
  x: number,
  y: number,
  z: number,
  dx: number,
  dy: number,
  dz: number,
  out: Float64Array,
): void {
  const ax = q[c];
  const ay = q[c + 4];
  const az = q[c + 8];
  const bx = q[c + 12] - ax;
  const by = q[c + 16] - ay;
  const bz = q[c + 20] - az;
  const cx = q[c + 24] - ax;
  const cy = q[c + 28] - ay;
  const cz = q[c + 32] - az;
  const px = dy * cz - dz * cy;
  const py = dz * cx - dx * cz;
  const pz = dx * cy - dy * cx;
  const scale = 1 / (bx * px + by * py + bz * pz);
  const sx = x - ax;
  const sy = y - ay;
  const sz = z - az;
  const u = (sx * px + sy * py + sz * pz) * scale;
  const rx = sy * bz - sz * by;
  const ry = sz * bx - sx * bz;
  const rz = sx * by - sy * bx;
  const v = (dx * rx + dy * ry + dz * rz) * scale;
  const wu = u > 0 ? (u < 1 ? u : 1) : 0;
  const wv = v > 0 ? (v < 1 - wu ? v : 1 - wu) : 0;
  out[1] = wu;
  out[2] = wv;
  if (u > -ASTRAY && v > -ASTRAY && u + v < 1 + ASTRAY) {
    out[0] = (cx * rx + cy * ry + cz * rz) * scale;
    return;
  }
  // Where the ray passes the place of those weights.
  const ex = wu * bx + wv * cx - sx;
  const ey = wu * by + wv * cy - sy;
  const ez = wu * bz + wv * cz - sz;
  out[0] = (ex * dx + ey * dy + ez * dz) / (dx * dx + dy * dy + dz * dz);
}
