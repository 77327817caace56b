import { RayQuery } from '../rays/query';
import { buildTree } from '../rays/tree';
import { checkpoint, QUIET, type Task } from '../task';

/** Triangles as they stand, 9 numbers each, mm, and whether they hide what lies behind them: glass doesn't. */
export interface Standing {
  soup: Float64Array;
  blocks: boolean;
}

/** Directions asked over the whole sphere; those on the front side of a triangle count. */
const DIRECTIONS = 160;
/** Places on a triangle that are asked: its middle, and points near its corners and sides. */
const PLACES: readonly (readonly [number, number, number])[] = [
  [1 / 3, 1 / 3, 1 / 3],
  [0.92, 0.04, 0.04],
  [0.04, 0.92, 0.04],
  [0.04, 0.04, 0.92],
  [0.48, 0.48, 0.04],
  [0.04, 0.48, 0.48],
  [0.48, 0.04, 0.48],
];
/** Places other than the middle are asked in one of so many directions each. */
const SHARE = 4;
/** Flatter than this along the surface a ray says nothing, cosine. */
const GRAZING = 0.03;
/** Of more triangles than this only an even share is asked first; the others where one beside them was found hidden. */
const ASKED = 60_000;

/** Directions spread evenly over a sphere: the Fibonacci lattice (Keinert et al. 2015). 3 numbers each. */
export function evenDirections(n: number): Float64Array {
  const out = new Float64Array(3 * n);
  const golden = Math.PI * (3 - Math.sqrt(5));
  for (let i = 0; i < n; i++) {
    const y = 1 - (2 * i + 1) / n;
    const r = Math.sqrt(1 - y * y);
    out.set([r * Math.cos(golden * i), y, r * Math.sin(golden * i)], 3 * i);
  }
  return out;
}

/** Asks whether triangles are seen from outside the whole piece: whether a ray from their front gets away. */
export class Outside {
  private readonly query: RayQuery;
  private readonly directions: Float64Array;
  private readonly off: number;
  private readonly far: number;

  constructor(parts: readonly Standing[], directions = DIRECTIONS) {
    const blocking = parts.filter((p) => p.blocks);
    const all = new Float64Array(blocking.reduce((n, p) => n + p.soup.length, 0));
    let at = 0;
    for (const p of blocking) {
      all.set(p.soup, at);
      at += p.soup.length;
    }
    this.query = new RayQuery(buildTree(all));
    this.directions = evenDirections(directions);
    let size = 0;
    for (const p of parts) for (let i = 0; i < p.soup.length; i++) size = Math.max(size, Math.abs(p.soup[i]));
    this.off = Math.max(size * 2e-6, 1e-6);
    this.far = 4 * size + 1;
  }

  /** Whether a ray from a place gets away in one direction. */
  private free(x: number, y: number, z: number, dx: number, dy: number, dz: number): boolean {
    return !this.query.any(x, y, z, dx, dy, dz, 0, this.far);
  }

  /** Whether any place of a triangle is seen from anywhere outside. A triangle without area counts as seen. */
  seen(soup: Float64Array, t: number): boolean {
    return this.ask(soup, t, PLACES, true) > 0;
  }
  /** The share of outside directions, on its front, from which the middle of a triangle is seen: 0…1. */
  share(soup: Float64Array, t: number): number {
    return this.ask(soup, t, PLACES.slice(0, 1), false);
  }

  private ask(soup: Float64Array, t: number, places: typeof PLACES, any: boolean): number {
    const o = 9 * t;
    const ux = soup[o + 3] - soup[o];
    const uy = soup[o + 4] - soup[o + 1];
    const uz = soup[o + 5] - soup[o + 2];
    const vx = soup[o + 6] - soup[o];
    const vy = soup[o + 7] - soup[o + 1];
    const vz = soup[o + 8] - soup[o + 2];
    let nx = uy * vz - uz * vy;
    let ny = uz * vx - ux * vz;
    let nz = ux * vy - uy * vx;
    const l = Math.sqrt(nx * nx + ny * ny + nz * nz);
    if (l < 1e-18) return 1;
    nx /= l;
    ny /= l;
    nz /= l;
    const d = this.directions;
    let [asked, got] = [0, 0];
    for (const [at, [a, b, c]] of places.entries()) {
      const x = a * soup[o] + b * soup[o + 3] + c * soup[o + 6] + this.off * nx;
      const y = a * soup[o + 1] + b * soup[o + 4] + c * soup[o + 7] + this.off * ny;
      const z = a * soup[o + 2] + b * soup[o + 5] + c * soup[o + 8] + this.off * nz;
      // Straight out first: most triangles of most pieces are seen that way.
      if (any && this.free(x, y, z, nx, ny, nz)) return 1;
      // The middle is asked in every direction, the others each in a share of them that differs from place to place.
      const step = at === 0 ? 3 : 3 * SHARE;
      for (let i = step === 3 ? 0 : 3 * ((t + at) % SHARE); i < d.length; i += step) {
        if (d[i] * nx + d[i + 1] * ny + d[i + 2] * nz < GRAZING) continue;
        asked++;
        if (!this.free(x, y, z, d[i], d[i + 1], d[i + 2])) continue;
        if (any) return 1;
        got++;
      }
    }
    return asked > 0 ? got / asked : 0;
  }
}

/** 1 for every triangle that is never seen from outside the piece, by part. */
export function hiddenTriangles(parts: readonly Standing[], task: Task = QUIET): Uint8Array[] {
  const outside = new Outside(parts);
  const total = parts.reduce((n, p) => n + p.soup.length / 9, 0);
  const stride = Math.max(1, Math.ceil(total / ASKED));
  let done = 0;
  return parts.map(({ soup }) => {
    const n = soup.length / 9;
    const out = new Uint8Array(n);
    const asked = new Uint8Array(n);
    const ask = (t: number): boolean => {
      if (t < 0 || t >= n || asked[t]) return false;
      asked[t] = 1;
      if (outside.seen(soup, t)) return false;
      out[t] = 1;
      return true;
    };
    for (let t = 0; t < n; t += stride) {
      if ((++done & 1023) === 0) {
        checkpoint(task);
        task.progress((done * stride) / total, 'looking from outside');
      }
      if (ask(t)) for (let k = 1; k < stride; k++) for (const s of [t - k, t + k]) ask(s);
    }
    return out;
  });
}

/** How much each triangle is seen from outside, by part: the share of the directions on its front that are free. */
export function seenShares(parts: readonly Standing[], task: Task = QUIET): Float32Array[] {
  const outside = new Outside(parts);
  const total = parts.reduce((n, p) => n + p.soup.length / 9, 0);
  let done = 0;
  return parts.map(({ soup }) =>
    Float32Array.from({ length: soup.length / 9 }, (_, t) => {
      if ((++done & 255) === 0) {
        checkpoint(task);
        task.progress(done / total, 'looking from outside');
      }
      return outside.share(soup, t);
    }),
  );
}
