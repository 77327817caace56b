/**
 * Gradient noise in three dimensions (Perlin 2002, quintic fade, twelve edge directions), seeded, about −1…1. It has no
 * period: lattice points are hashed. Taken at positions in mm, so that seams of the layout don't show.
 */
// Hot: ten calls for every texel of a set, hence the unrolled corners.
export function noise3(x: number, y: number, z: number, seed: number): number {
  const xi = Math.floor(x);
  const yi = Math.floor(y);
  const zi = Math.floor(z);
  const fx = x - xi;
  const fy = y - yi;
  const fz = z - zi;
  const u = fx * fx * fx * (fx * (fx * 6 - 15) + 10);
  const v = fy * fy * fy * (fy * (fy * 6 - 15) + 10);
  const w = fz * fz * fz * (fz * (fz * 6 - 15) + 10);
  const x0 = Math.imul(xi, 0x8da6b343);
  const x1 = Math.imul(xi + 1, 0x8da6b343);
  const y0 = Math.imul(yi, 0xd8163841) ^ seed;
  const y1 = Math.imul(yi + 1, 0xd8163841) ^ seed;
  const z0 = Math.imul(zi, 0xcb1ab31f);
  const z1 = Math.imul(zi + 1, 0xcb1ab31f);
  const a00 = gradient(x0 ^ y0 ^ z0, fx, fy, fz);
  const a10 = gradient(x0 ^ y1 ^ z0, fx, fy - 1, fz);
  const a01 = gradient(x0 ^ y0 ^ z1, fx, fy, fz - 1);
  const a11 = gradient(x0 ^ y1 ^ z1, fx, fy - 1, fz - 1);
  const b00 = a00 + u * (gradient(x1 ^ y0 ^ z0, fx - 1, fy, fz) - a00);
  const b10 = a10 + u * (gradient(x1 ^ y1 ^ z0, fx - 1, fy - 1, fz) - a10);
  const b01 = a01 + u * (gradient(x1 ^ y0 ^ z1, fx - 1, fy, fz - 1) - a01);
  const b11 = a11 + u * (gradient(x1 ^ y1 ^ z1, fx - 1, fy - 1, fz - 1) - a11);
  const front = b00 + v * (b10 - b00);
  const back = b01 + v * (b11 - b01);
  return front + w * (back - front);
}

/** One of twelve directions to the middles of a cube's edges, by a hash of the corner (Wellons' lowbias32, inlined). */
function gradient(corner: number, x: number, y: number, z: number): number {
  let h = Math.imul(corner ^ (corner >>> 16), 0x21f0aaad);
  h = Math.imul(h ^ (h >>> 15), 0x735a2d97);
  h = (h ^ (h >>> 15)) & 15;
  const p = h < 8 ? x : y;
  const q = h < 4 ? y : h === 12 || h === 14 ? x : z;
  return ((h & 1) === 0 ? p : -p) + ((h & 2) === 0 ? q : -q);
}

/** Blotches: octaves of noise, each half as large and half as strong. `sizeMm` is the largest feature. */
export function blotches(x: number, y: number, z: number, sizeMm: number, octaves: number, seed: number): number {
  let sum = 0;
  let strength = 1;
  let total = 0;
  let k = 1 / sizeMm;
  for (let i = 0; i < octaves; i++) {
    sum += strength * noise3(x * k, y * k, z * k, seed + i);
    total += strength;
    strength *= 0.5;
    k *= 2;
  }
  return sum / total;
}
