import { locate } from '../locate';

/**
 * The kernel’s twin: follows rays through the same tree in plain TypeScript, in the same order and the same arithmetic (float32, rounded
 * after every operation), and so meets the same triangles, ties included. Slow; it stands where no kernel can be loaded, and is what the
 * kernel is held against. Sources as in `kernel/assembly/trace.ts` and `nearest.ts`.
 */
const { fround } = Math;
const GROW = fround(1.0000006);
const STILL = fround(1e-30);
const FAR = fround(1e30);
/** A direction along one axis; so little that it stands still is none, for boxes and triangles alike. */
/** A place nearer to nothing than this is nothing, see the kernel. */
const NOTHING = fround(1e-25);
const standing = (x: number): number => (Math.abs(fround(x)) < NOTHING ? 0 : fround(x));
const moving = (d: number): number => (Math.abs(fround(d)) < STILL ? 0 : fround(d));

const floats = new Float32Array(1);
const whole = new Int32Array(floats.buffer);
/** The bits of a float32; of distances that are not negative they compare like them. */
function bits(x: number): number {
  floats[0] = x;
  return whole[0];
}

/** The least float32 that is not below a number. */
function above(x: number): number {
  floats[0] = x;
  if (floats[0] < x) whole[0] = floats[0] < 0 ? whole[0] - 1 : floats[0] === 0 ? 1 : whole[0] + 1;
  return floats[0];
}

/** What children are visited by: the distance, its last two bits the child’s own place. */
const ordered = (near: number, lane: number): number => (bits(near > 0 ? near : 0) & ~3) | lane;

/** What is asked: the nearest hit, any, or all. */
export type Kind = 'closest' | 'any' | 'all';

/** Asks one tree. Positions are about the tree’s origin. */
export class Reference {
  /** Of the last question: distance (squared, of a nearest point) and weights of the second and third corner. */
  readonly answer = new Float64Array(3);
  private readonly place = new Float64Array(3);
  private u = 0;
  private v = 0;
  private readonly refs: Int32Array;
  private readonly ids: Int32Array;
  private readonly stack = new Int32Array(512);
  private readonly waits = new Float64Array(512);

  constructor(
    private readonly nodes: Float32Array,
    private readonly packs: Float32Array,
  ) {
    this.refs = new Int32Array(nodes.buffer, nodes.byteOffset, nodes.length);
    this.ids = new Int32Array(packs.buffer, packs.byteOffset, packs.length);
  }

  /**
   * @param hits takes what is met when all is asked
   * @returns pack · 4 + lane, −1 for nothing; for all, how many
   */
  trace(
    wx: number,
    wy: number,
    wz: number,
    wdx: number,
    wdy: number,
    wdz: number,
    from: number,
    to: number,
    kind: Kind,
    hits?: number[],
  ): number {
    const { nodes, packs, refs, ids, stack, waits, answer, place } = this;
    const o = [standing(wx), standing(wy), standing(wz)];
    const d = [moving(wdx), moving(wdy), moving(wdz)];
    if (!(Math.max(...d.map(Math.abs)) >= STILL)) return kind === 'all' ? 0 : -1;
    const inverse = d.map((x) => (x === 0 ? FAR : fround(1 / x)));
    const grown = inverse.map((x) => fround(x * GROW));
    const tMin = fround(from);
    // In a node, the planes a ray meets first and last, per axis.
    const near = inverse.map((x, k) => (x < 0 ? 12 + 4 * k : 4 * k));
    const far = inverse.map((x, k) => (x < 0 ? 4 * k : 12 + 4 * k));
    const [ax, ay, az] = d.map(Math.abs);
    const kz = az >= ax && az >= ay ? 2 : ax >= ay ? 0 : 1;
    let kx = (kz + 1) % 3;
    let ky = (kz + 2) % 3;
    if (d[kz] < 0) [kx, ky] = [ky, kx];
    const sz = inverse[kz];
    const sx = fround(d[kx] * sz);
    const sy = fround(d[ky] * sz);
    let best64 = to;
    let best = above(to);
    let limit = bits(best) | 3;
    let [found, foundId, count] = [-1, -1, 0];
    let [top, ref] = [0, 0];
    for (;;) {
      let descended = false;
      if (ref >= 0) {
        const first = top;
        for (let lane = 0; lane < 4; lane++) {
          const n = 32 * ref + lane;
          let [a, b] = [tMin, best];
          for (let k = 0; k < 3; k++) {
            const t = fround(fround(nodes[n + near[k]] - o[k]) * inverse[k]);
            if (a < t) a = t;
          }
          for (let k = 0; k < 3; k++) {
            const t = fround(fround(nodes[n + far[k]] - o[k]) * grown[k]);
            if (t < b) b = t;
          }
          if (!(a <= b)) continue;
          a = ordered(a, lane);
          let at = top++;
          for (; at > first && waits[at - 1] < a; at--) {
            waits[at] = waits[at - 1];
            stack[at] = stack[at - 1];
          }
          waits[at] = a;
          stack[at] = refs[n + 24];
        }
        if (top > first) {
          ref = stack[--top];
          descended = true;
        }
      } else {
        const p = 40 * ~ref;
        const before = best;
        for (let lane = 0; lane < 4; lane++) {
          if (ids[p + 36 + lane] < 0) continue;
          const c = (corner: number, k: number) => fround(packs[p + 4 * (3 * corner + k) + lane] - o[k]);
          const [a2, b2, c2] = [c(0, kz), c(1, kz), c(2, kz)];
          const along = (corner: number, k: number, s: number, z: number) => fround(c(corner, k) - fround(s * z));
          const [a0, a1] = [along(0, kx, sx, a2), along(0, ky, sy, a2)];
          const [b0, b1] = [along(1, kx, sx, b2), along(1, ky, sy, b2)];
          const [c0, c1] = [along(2, kx, sx, c2), along(2, ky, sy, c2)];
          let u = fround(fround(c0 * b1) - fround(c1 * b0));
          let v = fround(fround(a0 * c1) - fround(a1 * c0));
          let w = fround(fround(b0 * a1) - fround(b1 * a0));
          // On an edge, as far as float32 can tell: looked at again, edge by edge, so that both its triangles see the same.
          if (u === 0) u = fround(c0 * b1 - c1 * b0);
          if (v === 0) v = fround(a0 * c1 - a1 * c0);
          if (w === 0) w = fround(b0 * a1 - b1 * a0);
          if ((u < 0 || v < 0 || w < 0) && (u > 0 || v > 0 || w > 0)) continue;
          const det = fround(fround(u + v) + w);
          const t = fround(fround(fround(fround(fround(u * a2) + fround(v * b2)) + fround(w * c2)) * sz) / det);
          // Triangles of one pack are all held against what was found before it.
          if (!(t > tMin && t <= before)) continue;
          locate(packs, p + lane, wx, wy, wz, wdx, wdy, wdz, place);
          const far = place[0];
          if (!(far > from && far <= best64)) continue;
          if (kind === 'all') {
            hits?.push((~ref << 2) | lane);
            count++;
            continue;
          }
          const id = ids[p + 36 + lane];
          if (far === best64 && found >= 0 && id > foundId) continue;
          best64 = far;
          found = (~ref << 2) | lane;
          foundId = id;
          answer.set(place);
          if (kind === 'any') return found;
          best = above(far);
          limit = bits(best) | 3;
        }
      }
      if (descended) continue;
      for (;;) {
        if (top === 0) return kind === 'all' ? count : found;
        if (waits[--top] <= limit) break;
      }
      ref = stack[top];
    }
  }

  /** @param reach squared @returns pack · 4 + lane of the nearest triangle, −1 for nothing within reach */
  nearest(x: number, y: number, z: number, reach: number): number {
    const { nodes, refs, ids, stack, waits } = this;
    let best = reach;
    let [found, foundId, top, ref] = [-1, -1, 0, 0];
    let [fu, fv] = [0, 0];
    for (;;) {
      if (ref >= 0) {
        const first = top;
        for (let lane = 0; lane < 4; lane++) {
          const n = 32 * ref + lane;
          const ex = Math.max(0, nodes[n] - x, x - nodes[n + 12]);
          const ey = Math.max(0, nodes[n + 4] - y, y - nodes[n + 16]);
          const ez = Math.max(0, nodes[n + 8] - z, z - nodes[n + 20]);
          const d = ex * ex + ey * ey + ez * ez;
          if (!(d <= best) || d === Infinity) continue;
          let at = top++;
          for (; at > first && waits[at - 1] < d; at--) {
            waits[at] = waits[at - 1];
            stack[at] = stack[at - 1];
          }
          waits[at] = d;
          stack[at] = refs[n + 24];
        }
      } else {
        const p = 40 * ~ref;
        for (let lane = 0; lane < 4 && ids[p + 36 + lane] >= 0; lane++) {
          const d = this.toTriangle(p + lane, x, y, z);
          const id = ids[p + 36 + lane];
          if (d > best || Number.isNaN(d) || (d === best && found >= 0 && id > foundId)) continue;
          best = d;
          found = (~ref << 2) | lane;
          foundId = id;
          fu = this.u;
          fv = this.v;
        }
      }
      for (;;) {
        if (top === 0) {
          this.answer[0] = best;
          this.answer[1] = fu;
          this.answer[2] = fv;
          return found;
        }
        if (waits[--top] <= best) break;
      }
      ref = stack[top];
    }
  }

  /** Squared distance to one triangle; regions after Ericson, Real-Time Collision Detection (2005), §5.1.5. Weights in `u`, `v`. */
  private toTriangle(c: number, x: number, y: number, z: number): number {
    const { packs: q } = this;
    const [abx, aby, abz] = [q[c + 12] - q[c], q[c + 16] - q[c + 4], q[c + 20] - q[c + 8]];
    const [acx, acy, acz] = [q[c + 24] - q[c], q[c + 28] - q[c + 4], q[c + 32] - q[c + 8]];
    const [apx, apy, apz] = [x - q[c], y - q[c + 4], z - q[c + 8]];
    const d1 = abx * apx + aby * apy + abz * apz;
    const d2 = acx * apx + acy * apy + acz * apz;
    let u = 0;
    let v = 0;
    if (d1 > 0 || d2 > 0) {
      const [bpx, bpy, bpz] = [x - q[c + 12], y - q[c + 16], z - q[c + 20]];
      const [cpx, cpy, cpz] = [x - q[c + 24], y - q[c + 28], z - q[c + 32]];
      const d3 = abx * bpx + aby * bpy + abz * bpz;
      const d4 = acx * bpx + acy * bpy + acz * bpz;
      const d5 = abx * cpx + aby * cpy + abz * cpz;
      const d6 = acx * cpx + acy * cpy + acz * cpz;
      const vc = d1 * d4 - d3 * d2;
      const vb = d5 * d2 - d1 * d6;
      const va = d3 * d6 - d5 * d4;
      if (d3 >= 0 && d4 <= d3) u = 1;
      else if (d6 >= 0 && d5 <= d6) v = 1;
      else if (vc <= 0 && d1 >= 0 && d3 <= 0) u = d1 / (d1 - d3);
      else if (vb <= 0 && d2 >= 0 && d6 <= 0) v = d2 / (d2 - d6);
      else if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
        v = (d4 - d3) / (d4 - d3 + (d5 - d6));
        u = 1 - v;
      } else {
        const denominator = 1 / (va + vb + vc);
        u = vb * denominator;
        v = vc * denominator;
      }
    }
    this.u = u;
    this.v = v;
    const ex = apx - u * abx - v * acx;
    const ey = apy - u * aby - v * acy;
    const ez = apz - u * abz - v * acz;
    return ex * ex + ey * ey + ez * ez;
  }
}
