/** Which way each of the sixteen gradients goes: to the middles of a cube’s twelve edges, four of them twice. */
const GX = new Float64Array(16);
const GY = new Float64Array(16);
const GZ = new Float64Array(16);
for (let h = 0; h < 16; h++) {
  const first = (h & 1) === 0 ? 1 : -1;
  const second = (h & 2) === 0 ? 1 : -1;
  (h < 8 ? GX : GY)[h] += first;
  (h < 4 ? GY : h === 12 || h === 14 ? GX : GZ)[h] += second;
}

/** Cells of the lattice that were looked at last, each with the gradients of its eight corners: four bits a corner. */
const CELLS = 4096;
const KEYS = new Int32Array(4 * CELLS).fill(0x7fffffff);
const CORNERS = new Int32Array(CELLS);

/** Which gradient a corner has, by its hash (Wellons' lowbias32, inlined). */
function gradient(corner: number): number {
  let h = Math.imul(corner ^ (corner >>> 16), 0x21f0aaad);
  h = Math.imul(h ^ (h >>> 15), 0x735a2d97);
  return (h ^ (h >>> 15)) & 15;
}

function cellAt(slot: number, xi: number, yi: number, zi: number, seed: number): number {
  const [x0, x1] = [Math.imul(xi, 0x8da6b343), Math.imul(xi + 1, 0x8da6b343)];
  const [y0, y1] = [Math.imul(yi, 0xd8163841) ^ seed, Math.imul(yi + 1, 0xd8163841) ^ seed];
  const [z0, z1] = [Math.imul(zi, 0xcb1ab31f), Math.imul(zi + 1, 0xcb1ab31f)];
  KEYS[4 * slot] = xi;
  KEYS[4 * slot + 1] = yi;
  KEYS[4 * slot + 2] = zi;
  KEYS[4 * slot + 3] = seed;
  const near = gradient(x0 ^ y0 ^ z0) | (gradient(x0 ^ y1 ^ z0) << 4) | (gradient(x0 ^ y0 ^ z1) << 8) | (gradient(x0 ^ y1 ^ z1) << 12);
  const far = gradient(x1 ^ y0 ^ z0) | (gradient(x1 ^ y1 ^ z0) << 4) | (gradient(x1 ^ y0 ^ z1) << 8) | (gradient(x1 ^ y1 ^ z1) << 12);
  CORNERS[slot] = near | (far << 16);
  return CORNERS[slot];
}

/**
 * Gradient noise in three dimensions (Perlin 2002, quintic fade, twelve edge directions), seeded, about −1…1. It has no
 * period: lattice points are hashed. Taken at positions in mm, so that seams of the layout don't show.
 */
// Hot: ten calls for every texel of a set, hence unrolled and without a branch on what a hash says.
export function noise3(x: number, y: number, z: number, seed: number): number {
  const xi = Math.floor(x) | 0;
  const yi = Math.floor(y) | 0;
  const zi = Math.floor(z) | 0;
  let s = Math.imul(xi, 0x8da6b343) ^ Math.imul(yi, 0xd8163841) ^ Math.imul(zi, 0xcb1ab31f) ^ Math.imul(seed, 0x9e3779b1);
  s = (s ^ (s >>> 15)) & (CELLS - 1);
  const k = 4 * s;
  const isKept = KEYS[k] === xi && KEYS[k + 1] === yi && KEYS[k + 2] === zi && KEYS[k + 3] === seed;
  const c = isKept ? CORNERS[s] : cellAt(s, xi, yi, zi, seed);
  const fx = x - xi;
  const fy = y - yi;
  const fz = z - zi;
  const u = fx * fx * fx * (fx * (fx * 6 - 15) + 10);
  const v = fy * fy * fy * (fy * (fy * 6 - 15) + 10);
  const w = fz * fz * fz * (fz * (fz * 6 - 15) + 10);
  const gx = fx - 1;
  const gy = fy - 1;
  const gz = fz - 1;
  const c1 = (c >>> 4) & 15;
  const c2 = (c >>> 8) & 15;
  const c3 = (c >>> 12) & 15;
  const c4 = (c >>> 16) & 15;
  const c5 = (c >>> 20) & 15;
  const c6 = (c >>> 24) & 15;
  const c7 = c >>> 28;
  const a00 = GX[c & 15] * fx + GY[c & 15] * fy + GZ[c & 15] * fz;
  const a10 = GX[c1] * fx + GY[c1] * gy + GZ[c1] * fz;
  const a01 = GX[c2] * fx + GY[c2] * fy + GZ[c2] * gz;
  const a11 = GX[c3] * fx + GY[c3] * gy + GZ[c3] * gz;
  const b00 = a00 + u * (GX[c4] * gx + GY[c4] * fy + GZ[c4] * fz - a00);
  const b10 = a10 + u * (GX[c5] * gx + GY[c5] * gy + GZ[c5] * fz - a10);
  const b01 = a01 + u * (GX[c6] * gx + GY[c6] * fy + GZ[c6] * gz - a01);
  const b11 = a11 + u * (GX[c7] * gx + GY[c7] * gy + GZ[c7] * gz - a11);
  const front = b00 + v * (b10 - b00);
  const back = b01 + v * (b11 - b01);
  return front + w * (back - front);
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
