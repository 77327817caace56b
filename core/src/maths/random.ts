/**
 * A seeded generator (Mulberry32, public domain), uniform in [0, 1). Every use in the core names its own seed so that
 * one thread and many give the same bytes.
 */
export function random(seed: number): () => number {
  let a = seed >>> 0;
  return () => {
    a = (a + 0x6d2b79f5) >>> 0;
    let t = Math.imul(a ^ (a >>> 15), 1 | a);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** An integer hash (Wellons' lowbias32, public domain). */
export function hash32(x: number): number {
  let h = x >>> 0;
  h = Math.imul(h ^ (h >>> 16), 0x21f0aaad);
  h = Math.imul(h ^ (h >>> 15), 0x735a2d97);
  return (h ^ (h >>> 15)) >>> 0;
}

function reverse32(x: number): number {
  let v = x >>> 0;
  v = ((v >>> 1) & 0x55555555) | ((v & 0x55555555) << 1);
  v = ((v >>> 2) & 0x33333333) | ((v & 0x33333333) << 2);
  v = ((v >>> 4) & 0x0f0f0f0f) | ((v & 0x0f0f0f0f) << 4);
  v = ((v >>> 8) & 0x00ff00ff) | ((v & 0x00ff00ff) << 8);
  return ((v >>> 16) | (v << 16)) >>> 0;
}

/**
 * Owen-style scrambling by hashing (Laine & Karras 2011, constants of Vegdahl 2021), of a number whose bits are reversed already; what
 * comes out is reversed too.
 */
function laineKarras(x: number, seed: number): number {
  let v = x ^ Math.imul(x, 0x3d20adea);
  v = (v + seed) | 0;
  v = Math.imul(v, (seed >>> 16) | 1);
  v ^= Math.imul(v, 0x05526c56);
  return v ^ Math.imul(v, 0x53a22864);
}

/** The second dimension of Sobol's sequence (Sobol 1967): direction numbers by v ← v ^ (v >> 1). */
function sobol1(index: number): number {
  let result = 0;
  let v = 0x80000000;
  for (let i = index >>> 0; i > 0; i >>>= 1) {
    if (i & 1) result ^= v;
    v = (v ^ (v >>> 1)) >>> 0;
  }
  return result >>> 0;
}

/**
 * The second dimension by the bytes of a reversed index, reversed as well: it is linear over single bits, so four look-ups do what a loop
 * over 32 bits does. Which byte, times 256, plus its value.
 */
const SECOND = Int32Array.from({ length: 1024 }, (_, i) => reverse32(sobol1(reverse32((i & 255) << (8 * (i >> 8))))));

const FIRST_KEY = 0xa511e9b3;
const SECOND_KEY = 0x63d83595;
const TO_UNIT = 1 / 4294967296;

/** Point `index` of the scrambled two-dimensional Sobol sequence: two numbers in [0, 1) written to `out`. */
export function sobol2(index: number, seed: number, out: Float64Array): void {
  // The first dimension of a shuffled index is its reversal, which it has anyhow here.
  const z = laineKarras(reverse32(index), seed);
  const second = SECOND[z & 255] ^ SECOND[256 + ((z >>> 8) & 255)] ^ SECOND[512 + ((z >>> 16) & 255)] ^ SECOND[768 + (z >>> 24)];
  out[0] = reverse32(laineKarras(reverse32(z), hash32(seed ^ FIRST_KEY))) * TO_UNIT;
  out[1] = reverse32(laineKarras(second, hash32(seed ^ SECOND_KEY))) * TO_UNIT;
}

/** The first `count` points of a sequence, as {@link sobol2} gives them, 2 numbers each. */
export function sobolRow(count: number, seed: number, out: Float64Array): void {
  const first = hash32(seed ^ FIRST_KEY);
  const other = hash32(seed ^ SECOND_KEY);
  for (let i = 0; i < count; i++) {
    const z = laineKarras(reverse32(i), seed);
    const second = SECOND[z & 255] ^ SECOND[256 + ((z >>> 8) & 255)] ^ SECOND[512 + ((z >>> 16) & 255)] ^ SECOND[768 + (z >>> 24)];
    out[2 * i] = reverse32(laineKarras(reverse32(z), first)) * TO_UNIT;
    out[2 * i + 1] = reverse32(laineKarras(second, other)) * TO_UNIT;
  }
}

/** Cosine and sine of shares of a turn in steps of 1/4096, one beside the other, and the first again at the end. */
const TURN_STEPS = 4096;
const TURN = Float64Array.from({ length: 2 * TURN_STEPS + 2 }, (_, i) => {
  const angle = (2 * Math.PI * (i >> 1)) / TURN_STEPS;
  return i & 1 ? Math.sin(angle) : Math.cos(angle);
});

/** Cosine of a share of a turn, 0…1, to 3 · 10⁻⁷: for directions, where an angle is a random number anyhow. */
export function turnCos(share: number): number {
  const x = share * TURN_STEPS;
  const i = x | 0;
  return TURN[2 * i] + (x - i) * (TURN[2 * i + 2] - TURN[2 * i]);
}
/** Its sine. */
export function turnSin(share: number): number {
  const x = share * TURN_STEPS;
  const i = x | 0;
  return TURN[2 * i + 1] + (x - i) * (TURN[2 * i + 3] - TURN[2 * i + 1]);
}
