import { hash32, random } from '../../maths/random';
import { noise3 } from '../noise';
import { CLOUD_OCTAVES } from './fields';

/** A mask's soft edge: 0 below, 1 above, half at the threshold. */
export const smoothEdge = (value: number, threshold: number, soft: number): number => {
  const x = (value - threshold) / (2 * soft) + 0.5;
  return x <= 0 ? 0 : x >= 1 ? 1 : x * x * (3 - 2 * x);
};

/** 0 below, 1 above, smooth between. */
export const ramp = (x: number, low: number, high: number): number => {
  if (high <= low) return x < low ? 0 : 1;
  const t = (x - low) / (high - low);
  return t <= 0 ? 0 : t >= 1 ? 1 : t * t * (3 - 2 * t);
};

/** How much of something `mm` large a texel can still show: whole from two texels on, nothing below one. */
const shown = (mm: number, footprint: number): number => (footprint <= 0 ? 1 : Math.min(1, Math.max(0, mm / footprint - 1)));

/** 0 … 1 from a lattice point, a hash. */
export const chance = (i: number, j: number, k: number, seed: number): number =>
  hash32(Math.imul(i, 0x8da6b343) ^ Math.imul(j, 0xd8163841) ^ Math.imul(k, 0xcb1ab31f) ^ seed) / 4294967296;

/** Octaves of noise without those that a texel can’t show; about −1 … 1, with the spread of the whole. */
export function octaves(x: number, y: number, z: number, sizeMm: number, seed: number, footprint: number): number {
  let [sum, strength, total, size] = [0, 1, 0, sizeMm];
  for (let i = 0; i < CLOUD_OCTAVES; i++) {
    const s = strength * shown(size, footprint);
    if (s > 0) sum += s * noise3(x / size, y / size, z / size, seed + i);
    total += strength;
    strength *= 0.5;
    size *= 0.5;
  }
  return sum / total;
}

/** Values of a field’s noise at places far apart, in order: what share lies above a value is read off it. */
function spreadOf(at: (x: number, y: number, z: number) => number): Float64Array {
  const next = random(11);
  return Float64Array.from({ length: 8192 }, () => at(900 * next(), 900 * next(), 900 * next())).sort();
}
let cloudSpread: Float64Array | null = null;
let strandSpread: Float64Array | null = null;
const above = (spread: Float64Array, share: number): number =>
  share <= 0
    ? Number.POSITIVE_INFINITY
    : share >= 1
      ? Number.NEGATIVE_INFINITY
      : spread[Math.min(spread.length - 1, Math.floor((1 - share) * spread.length))];

/** The value that a share of clouds lies above. */
export function cloudsAbove(share: number): number {
  cloudSpread ??= spreadOf((x, y, z) => octaves(x, y, z, 7.3, 5, 0));
  return above(cloudSpread, share);
}

/** Two layers of noise drawn out along the first axis. */
const strand = (u: number, v: number, w: number, width: number, length: number, seed: number): number =>
  0.62 * noise3(u / length, v / width, w / width, seed) + 0.38 * noise3((2.3 * u) / length, (1.9 * v) / width, (1.9 * w) / width, seed + 1);
/** The value that a share of strands lies above. */
export function strandsAbove(share: number): number {
  strandSpread ??= spreadOf((x, y, z) => strand(x, y, z, 2.1, 7.7, 5));
  return above(strandSpread, share);
}

/** Strands along the first axis: where they are dense, 0 … 1, their edges soft; even where they are finer than a texel. */
export function strands(
  u: number,
  v: number,
  w: number,
  width: number,
  length: number,
  limit: number,
  share: number,
  seed: number,
  footprint: number,
): number {
  const clear = shown(width, footprint);
  if (clear === 0) return share;
  const value = ramp(strand(u, v, w, width, length, seed), limit - 0.22, limit + 0.22);
  return share + clear * (value - share);
}

/** How far round spots lie apart for a share of a cut through them to be within one: 1 − exp(−n·4/3·π·E[r³]), r from half of R to R. */
export const spotCell = (radius: number, share: number): number =>
  radius * (((4 / 3) * Math.PI * 0.46875) / -Math.log(1 - Math.min(0.85, Math.max(1e-4, share)))) ** (1 / 3);

/** How far a coordinate lies outside a cell. */
const outside = (x: number, i: number, cell: number): number => Math.max(0, i * cell - x, x - (i + 1) * cell);

/** Spots of up to `radius`, one in each cell of a lattice. */
export function spots(x: number, y: number, z: number, radius: number, cell: number, seed: number, footprint: number): number {
  const [i, j, k] = [Math.floor(x / cell), Math.floor(y / cell), Math.floor(z / cell)];
  const soft = Math.max(0.08 * radius, footprint / 2);
  const reach = Math.ceil((radius + soft) / cell);
  const far = (radius + soft) * (radius + soft);
  let most = 0;
  // Cells that the largest spot can't reach out of are passed by.
  for (let a = i - reach; a <= i + reach; a++) {
    const ox = outside(x, a, cell);
    const xx = ox * ox;
    if (xx > far) continue;
    for (let b = j - reach; b <= j + reach; b++) {
      const oy = outside(y, b, cell);
      const xy = xx + oy * oy;
      if (xy > far) continue;
      for (let c = k - reach; c <= k + reach; c++) {
        const oz = outside(z, c, cell);
        if (xy + oz * oz > far) continue;
        const dx = x - cell * (a + chance(a, b, c, seed));
        const dy = y - cell * (b + chance(a, b, c, seed + 1));
        const dz = z - cell * (c + chance(a, b, c, seed + 2));
        const d = dx * dx + dy * dy + dz * dz;
        if (d >= far) continue;
        const r = radius * (0.5 + 0.5 * chance(a, b, c, seed + 3));
        if (d < (r + soft) * (r + soft)) most = Math.max(most, 1 - ramp(Math.sqrt(d), r - soft, r + soft));
      }
    }
  }
  return most;
}

/**
 * Bowls side by side (cellular noise, Worley 1996): 1 in the middle of each, 0 where they meet. What lies round a cell is kept for the next
 * place in it: texels side by side are mostly in one.
 */
export class Dents {
  private readonly middles = new Float64Array(81);
  private i = Number.NaN;
  private j = 0;
  private k = 0;
  constructor(
    private readonly size: number,
    private readonly seed: number,
  ) {}

  at(x: number, y: number, z: number): number {
    const { size, middles } = this;
    const [px, py, pz] = [x / size, y / size, z / size];
    const [i, j, k] = [Math.floor(px), Math.floor(py), Math.floor(pz)];
    if (i !== this.i || j !== this.j || k !== this.k) this.stand(i, j, k);
    let [first, second] = [Number.POSITIVE_INFINITY, Number.POSITIVE_INFINITY];
    for (let n = 0; n < 81; n += 3) {
      const dx = px - middles[n];
      const dy = py - middles[n + 1];
      const dz = pz - middles[n + 2];
      const d = dx * dx + dy * dy + dz * dz;
      if (d < first) {
        second = first;
        first = d;
      } else if (d < second) second = d;
    }
    // Between its middle and where the next one begins.
    const t = second > 0 ? Math.sqrt(first / second) : 0;
    return 1 - t * t;
  }

  private stand(i: number, j: number, k: number): void {
    const { seed, middles } = this;
    [this.i, this.j, this.k] = [i, j, k];
    let n = 0;
    for (let a = i - 1; a <= i + 1; a++)
      for (let b = j - 1; b <= j + 1; b++)
        for (let c = k - 1; c <= k + 1; c++) {
          middles[n++] = a + chance(a, b, c, seed);
          middles[n++] = b + chance(a, b, c, seed + 1);
          middles[n++] = c + chance(a, b, c, seed + 2);
        }
  }
}

/** Late wood of a trunk round an axis, at a place across it from the middle of the board; 0 … 1, the ring’s end sharp. */
export function rings(u: number, v: number, w: number, perCm: number, wander: number, seed: number, footprint: number): number {
  const clear = shown(5 / perCm, footprint);
  if (clear === 0) return MEAN_LATE;
  // Each board lies elsewhere in its trunk.
  const [rv, rw] = [35 + 90 * chance(1, 2, 3, seed), -12 - 70 * chance(4, 5, 6, seed)];
  const dv = v - (chance(7, 8, 9, seed) < 0.5 ? rv : -rv);
  const dw = w - rw;
  const bent =
    wander * (noise3(u / 420, v / 90, w / 90, seed + 1) + 0.35 * noise3(u / 110, v / 26, w / 26, seed + 2)) +
    (1.2 / perCm) * noise3(u / 35, v / 6, w / 6, seed + 3);
  const at = ((Math.hypot(dv, dw) + bent) * perCm) / 10;
  const ring = Math.floor(at);
  // Years differ: how much late wood, and how dark.
  const begin = 0.3 + 0.35 * chance(ring, 0, 0, seed + 4);
  const late = ramp(at - ring, begin, 0.93) * (1 - ramp(at - ring, 0.94, 1)) * (0.55 + 0.45 * chance(ring, 1, 0, seed + 5));
  return MEAN_LATE + clear * (late - MEAN_LATE);
}
/** What rings come to where they are finer than a texel: the mean over 200 000 places of as many trunks. */
const MEAN_LATE = 0.207;

/** Threads of a plain weave at a place across it: how high the one on top lies, 0 … 1. */
export function weave(u: number, v: number, thread: number, footprint: number): number {
  const clear = shown(thread, footprint);
  if (clear === 0) return MEAN_WEAVE;
  const [a, b] = [u / thread, v / thread];
  const [i, j] = [Math.floor(a), Math.floor(b)];
  const [s, t] = [Math.sin(Math.PI * (a - i)), Math.sin(Math.PI * (b - j))];
  const height = ((i + j) & 1) === 0 ? t * (0.45 + 0.55 * s) : s * (0.45 + 0.55 * t);
  return MEAN_WEAVE + clear * (height - MEAN_WEAVE);
}
/** ∫∫ sin πt (0.45 + 0.55 sin πs): 2/π · (0.45 + 0.55 · 2/π). */
const MEAN_WEAVE = (2 / Math.PI) * (0.45 + (0.55 * 2) / Math.PI);

/**
 * What ran down: streaks round upright lines strewn one for every square of a spacing, each as far as it is seen along the surface; those within
 * half a spacing of it are on it. 0 … 1.
 */
export function runs(
  p: { x: number; y: number; z: number; nx: number; nz: number; footprint: number },
  width: number,
  length: number,
  spacing: number,
  seed: number,
): number {
  const level = Math.sqrt(p.nx * p.nx + p.nz * p.nz);
  // Nothing runs over what lies flat.
  const upright = ramp(level, 0.3, 0.6);
  if (upright === 0) return 0;
  const [nx, nz] = [p.nx / level, p.nz / level];
  const half = Math.max(width, p.footprint) / 2;
  const strength = upright * Math.min(1, width / Math.max(width, p.footprint));
  const [i, j, k] = [Math.floor(p.x / spacing), Math.floor(p.y / length), Math.floor(p.z / spacing)];
  const reach = 1 + Math.ceil(half / spacing);
  let most = 0;
  for (let a = i - reach; a <= i + reach; a++)
    for (let c = k - reach; c <= k + reach; c++) {
      const rx = spacing * (a + chance(a, 0, c, seed)) - p.x;
      const rz = spacing * (c + chance(a, 1, c, seed)) - p.z;
      const off = Math.abs(rx * nx + rz * nz);
      if (off > spacing / 2) continue;
      const beside = Math.abs(rx * nz - rz * nx);
      if (beside >= half) continue;
      // One in each length of the line, beginning somewhere in it.
      for (let b = j; b <= j + 1; b++) {
        const long = length * (0.25 + 0.75 * chance(a, b + 7, c, seed + 1));
        const down = length * (b + chance(a, b, c, seed + 2)) - p.y;
        if (down < 0 || down >= long) continue;
        const t = down / long;
        const wide = half * (1 - 0.55 * t);
        const here =
          (1 - ramp(beside, 0.5 * wide, wide)) *
          ramp(down, 0, half) *
          (1 - ramp(t, 0.6, 1)) *
          (1 - ramp(off, 0.4 * spacing, 0.5 * spacing));
        if (here > most) most = here;
      }
    }
  return strength * most;
}

/** Which way scratches run, degrees from the first axis. */
export interface Scratched {
  length: number;
  width: number;
  perMm2: number;
  /** Half of the range of directions, radians: π for any. */
  spread: number;
}

/** Numbers kept of a scratch: its middle, half its length, its direction, how deep it goes. */
const SCRATCH = 6;
/** Cells whose scratches are kept, each in a place of its own by what it is. */
const CELLS_KEPT = 1024;

/** Straight scratches in a plane. Those of the cells looked at last are kept. */
export class Scratches {
  private readonly cells: { p: number; q: number; seed: number; drawn: Float64Array }[] = [];
  /** The nine cells round the last place, by its own. */
  private readonly round: Float64Array[] = [];
  private last = { i: Number.NaN, j: 0, seed: 0 };
  constructor(private readonly s: Scratched) {}

  /** What of a texel they take, 0 … 1. */
  at(a: number, b: number, seed: number, footprint: number): number {
    const { s, last } = this;
    const [i, j] = [Math.floor(a / s.length), Math.floor(b / s.length)];
    if (i !== last.i || j !== last.j || seed !== last.seed) this.stand(i, j, seed);
    // Thinner than a texel it takes only a share of it.
    const half = Math.max(s.width, footprint) / 2;
    const strength = Math.min(1, s.width / Math.max(s.width, footprint));
    let most = 0;
    for (const list of this.round)
      for (let n = 0; n < list.length; n += SCRATCH) {
        const ma = list[n] - a;
        const mb = list[n + 1] - b;
        const long = list[n + 2];
        const [c, d] = [list[n + 3], list[n + 4]];
        const across = Math.abs(ma * d - mb * c);
        if (across > half) continue;
        const t = Math.abs(ma * c + mb * d) / long;
        if (t >= 1) continue;
        // It begins and ends in nothing.
        const there = strength * (1 - ramp(across, 0.5 * half, half)) * (1 - ramp(t, 0.7, 1)) * list[n + 5];
        if (there > most) most = there;
      }
    return most;
  }

  private stand(i: number, j: number, seed: number): void {
    this.last = { i, j, seed };
    this.round.length = 0;
    for (let p = i - 1; p <= i + 1; p++) for (let q = j - 1; q <= j + 1; q++) this.round.push(this.cell(p, q, seed));
  }

  private cell(p: number, q: number, seed: number): Float64Array {
    const slot = Math.floor(CELLS_KEPT * chance(p, q, 7, seed));
    const kept = this.cells[slot];
    if (kept && kept.p === p && kept.q === q && kept.seed === seed) return kept.drawn;
    const { length, perMm2, spread } = this.s;
    const count = Math.floor(perMm2 * length * length + chance(p, q, 0, seed));
    const out = new Float64Array(SCRATCH * count);
    for (let n = 1; n <= count; n++) {
      const turn = spread * (2 * chance(p, q, n, seed + 4) - 1);
      out.set(
        [
          length * (p + chance(p, q, n, seed + 1)),
          length * (q + chance(p, q, n, seed + 2)),
          length * (0.25 + 0.75 * chance(p, q, n, seed + 3)) * 0.5,
          Math.cos(turn),
          Math.sin(turn),
          0.5 + 0.5 * chance(p, q, n, seed + 5),
        ],
        SCRATCH * (n - 1),
      );
    }
    this.cells[slot] = { p, q, seed, drawn: out };
    return out;
  }
}
