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

/** Owen-style scrambling by hashing (Laine & Karras 2011, constants of Vegdahl 2021). */
function scramble(x: number, seed: number): number {
  let v = reverse32(x);
  v ^= Math.imul(v, 0x3d20adea);
  v = (v + seed) | 0;
  v = Math.imul(v, (seed >>> 16) | 1);
  v ^= Math.imul(v, 0x05526c56);
  v ^= Math.imul(v, 0x53a22864);
  return reverse32(v);
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

/** Point `index` of the scrambled two-dimensional Sobol sequence: two numbers in [0, 1) written to `out`. */
export function sobol2(index: number, seed: number, out: Float64Array): void {
  const shuffled = scramble(index, seed);
  out[0] = scramble(reverse32(shuffled), hash32(seed ^ 0xa511e9b3)) / 4294967296;
  out[1] = scramble(sobol1(shuffled), hash32(seed ^ 0x63d83595)) / 4294967296;
}
