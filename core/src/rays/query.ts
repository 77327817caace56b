import type { RayTree } from './tree';

/**
 * Asks a tree: nearest hit, any hit, nearest point. One object per thread; the answer stands in its fields, so no ray
 * allocates. Positions in mm in the caller's space; directions need not be unit, `t` is in their lengths.
 *
 * Triangles are tested watertight (Woop, Benthin & Wald 2013) in double precision on float32 corners: a ray through a
 * shared edge hits one of its two triangles. Equal distances go to the lower triangle number.
 */
export class RayQuery {
  t = 0;
  /** The caller's triangle number, −1 for none. */
  triangle = -1;
  /** Barycentric weights of the second and third corner. */
  u = 0;
  v = 0;
  private readonly stack = new Int32Array(256);
  private readonly near = new Float64Array(128);

  constructor(readonly tree: RayTree) {}

  /** Nearest hit with tMin < t ≤ tMax. */
  closest(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, tMin: number, tMax: number): boolean {
    return this.trace(ox, oy, oz, dx, dy, dz, tMin, tMax, false);
  }

  /** Whether anything lies between. */
  any(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, tMin: number, tMax: number): boolean {
    return this.trace(ox, oy, oz, dx, dy, dz, tMin, tMax, true);
  }

  // A hot loop on flat arrays; the readable twin stands in the test.
  private trace(wx: number, wy: number, wz: number, dx: number, dy: number, dz: number, tMin: number, tMax: number, any: boolean): boolean {
    const { nodes, links, corners, order, origin } = this.tree;
    const { stack, near } = this;
    this.triangle = -1;
    if (order.length === 0) return false;
    const ox = wx - origin[0];
    const oy = wy - origin[1];
    const oz = wz - origin[2];
    const ix = 1 / dx;
    const iy = 1 / dy;
    const iz = 1 / dz;
    // Which side of a box the ray meets first, per axis, so that the slab test needs no ordering.
    const nx = ix < 0 ? 3 : 0;
    const ny = iy < 0 ? 4 : 1;
    const nz = iz < 0 ? 5 : 2;
    const fx = 3 - nx;
    const fy = 5 - ny;
    const fz = 7 - nz;
    const ax = dx < 0 ? -dx : dx;
    const ay = dy < 0 ? -dy : dy;
    const az = dz < 0 ? -dz : dz;
    let kx: number;
    let ky: number;
    let kz: number;
    let sx: number;
    let sy: number;
    let sz: number;
    let px: number;
    let py: number;
    let pz: number;
    if (az >= ax && az >= ay) {
      kz = 2;
      kx = 0;
      ky = 1;
      sz = iz;
      sx = dx;
      sy = dy;
      px = ox;
      py = oy;
      pz = oz;
      if (dz < 0) {
        kx = 1;
        ky = 0;
        sx = dy;
        sy = dx;
        px = oy;
        py = ox;
      }
    } else if (ax >= ay) {
      kz = 0;
      kx = 1;
      ky = 2;
      sz = ix;
      sx = dy;
      sy = dz;
      px = oy;
      py = oz;
      pz = ox;
      if (dx < 0) {
        kx = 2;
        ky = 1;
        sx = dz;
        sy = dy;
        px = oz;
        py = oy;
      }
    } else {
      kz = 1;
      kx = 2;
      ky = 0;
      sz = iy;
      sx = dz;
      sy = dx;
      px = oz;
      py = ox;
      pz = oy;
      if (dy < 0) {
        kx = 0;
        ky = 2;
        sx = dx;
        sy = dz;
        px = ox;
        py = oz;
      }
    }
    sx *= sz;
    sy *= sz;
    let best = tMax;
    let found = -1;
    let top = 0;
    let ref = 0;
    let count = 0;
    for (;;) {
      if (count === 0) {
        const o = ref << 4;
        // Left and right slabs. NaN from 0 · ∞ compares false and leaves the bound as it was.
        let near0 = tMin;
        let far0 = best;
        let t = (nodes[o + nx] - ox) * ix;
        if (t > near0) near0 = t;
        t = (nodes[o + ny] - oy) * iy;
        if (t > near0) near0 = t;
        t = (nodes[o + nz] - oz) * iz;
        if (t > near0) near0 = t;
        t = (nodes[o + fx] - ox) * ix * 1.0000000000000004;
        if (t < far0) far0 = t;
        t = (nodes[o + fy] - oy) * iy * 1.0000000000000004;
        if (t < far0) far0 = t;
        t = (nodes[o + fz] - oz) * iz * 1.0000000000000004;
        if (t < far0) far0 = t;
        let near1 = tMin;
        let far1 = best;
        t = (nodes[o + 6 + nx] - ox) * ix;
        if (t > near1) near1 = t;
        t = (nodes[o + 6 + ny] - oy) * iy;
        if (t > near1) near1 = t;
        t = (nodes[o + 6 + nz] - oz) * iz;
        if (t > near1) near1 = t;
        t = (nodes[o + 6 + fx] - ox) * ix * 1.0000000000000004;
        if (t < far1) far1 = t;
        t = (nodes[o + 6 + fy] - oy) * iy * 1.0000000000000004;
        if (t < far1) far1 = t;
        t = (nodes[o + 6 + fz] - oz) * iz * 1.0000000000000004;
        if (t < far1) far1 = t;
        if (near0 <= far0) {
          if (near1 <= far1) {
            // Both: the nearer one now, the other when its turn comes.
            if (near0 <= near1) {
              stack[top] = links[o + 14];
              stack[top + 1] = links[o + 15];
              near[top >> 1] = near1;
              ref = links[o + 12];
              count = links[o + 13];
            } else {
              stack[top] = links[o + 12];
              stack[top + 1] = links[o + 13];
              near[top >> 1] = near0;
              ref = links[o + 14];
              count = links[o + 15];
            }
            top += 2;
          } else {
            ref = links[o + 12];
            count = links[o + 13];
          }
          continue;
        }
        if (near1 <= far1) {
          ref = links[o + 14];
          count = links[o + 15];
          // The empty second child of a one-leaf root.
          if (count > 0 || ref > 0) continue;
        }
      } else {
        for (let i = ref, end = ref + count; i < end; i++) {
          const c = 9 * i;
          const a2 = corners[c + kz] - pz;
          const b2 = corners[c + 3 + kz] - pz;
          const c2 = corners[c + 6 + kz] - pz;
          const a0 = corners[c + kx] - px - sx * a2;
          const a1 = corners[c + ky] - py - sy * a2;
          const b0 = corners[c + 3 + kx] - px - sx * b2;
          const b1 = corners[c + 3 + ky] - py - sy * b2;
          const c0 = corners[c + 6 + kx] - px - sx * c2;
          const c1 = corners[c + 6 + ky] - py - sy * c2;
          const u = c0 * b1 - c1 * b0;
          const v = a0 * c1 - a1 * c0;
          const w = b0 * a1 - b1 * a0;
          if ((u < 0 || v < 0 || w < 0) && (u > 0 || v > 0 || w > 0)) continue;
          const det = u + v + w;
          if (det === 0) continue;
          const t = (sz * (u * a2 + v * b2 + w * c2)) / det;
          if (!(t > tMin) || t > best) continue;
          if (t === best && found >= 0 && order[i] > order[found]) continue;
          best = t;
          found = i;
          this.u = v / det;
          this.v = w / det;
          if (any) {
            this.t = t;
            this.triangle = order[i];
            return true;
          }
        }
      }
      // Next on the stack that is still nearer than what was found.
      for (;;) {
        if (top === 0) {
          if (found < 0) return false;
          this.t = best;
          this.triangle = order[found];
          return true;
        }
        top -= 2;
        if (near[top >> 1] <= best) break;
      }
      ref = stack[top];
      count = stack[top + 1];
    }
  }

  /**
   * Nearest point of the surface within `reach` mm. Distance in `t`, weights in `u` and `v`. Regions of a triangle after
   * Ericson, Real-Time Collision Detection (2005), §5.1.5.
   */
  nearest(wx: number, wy: number, wz: number, reach: number): boolean {
    const { nodes, links, corners, order, origin } = this.tree;
    const { stack, near } = this;
    const x = wx - origin[0];
    const y = wy - origin[1];
    const z = wz - origin[2];
    let best = reach * reach;
    let found = -1;
    this.triangle = -1;
    if (order.length === 0) return false;
    let top = 0;
    stack[0] = 0;
    stack[1] = 0;
    near[0] = 0;
    top = 2;
    const gap = (o: number): number => {
      const ex = x < nodes[o] ? nodes[o] - x : x > nodes[o + 3] ? x - nodes[o + 3] : 0;
      const ey = y < nodes[o + 1] ? nodes[o + 1] - y : y > nodes[o + 4] ? y - nodes[o + 4] : 0;
      const ez = z < nodes[o + 2] ? nodes[o + 2] - z : z > nodes[o + 5] ? z - nodes[o + 5] : 0;
      return ex * ex + ey * ey + ez * ez;
    };
    while (top > 0) {
      top -= 2;
      if (near[top >> 1] > best) continue;
      const ref = stack[top];
      const count = stack[top + 1];
      if (count > 0) {
        for (let i = ref; i < ref + count; i++) {
          const d = this.pointOnTriangle(corners, 9 * i, x, y, z);
          if (d < best || (d === best && found >= 0 && order[i] < order[found])) {
            best = d;
            found = i;
            this.u = this.pu;
            this.v = this.pv;
          }
        }
        continue;
      }
      const o = ref << 4;
      const g0 = links[o + 13] > 0 || links[o + 12] > 0 ? gap(o) : Infinity;
      const g1 = links[o + 15] > 0 || links[o + 14] > 0 ? gap(o + 6) : Infinity;
      const first = g0 > g1 ? 0 : 1;
      for (const side of [first, 1 - first]) {
        const g = side === 0 ? g0 : g1;
        if (!(g <= best)) continue;
        stack[top] = links[o + 12 + 2 * side];
        stack[top + 1] = links[o + 13 + 2 * side];
        near[top >> 1] = g;
        top += 2;
      }
    }
    if (found < 0) return false;
    this.t = Math.sqrt(best);
    this.triangle = order[found];
    return true;
  }

  private pu = 0;
  private pv = 0;
  private pointOnTriangle(c: Float32Array, o: number, x: number, y: number, z: number): number {
    const abx = c[o + 3] - c[o];
    const aby = c[o + 4] - c[o + 1];
    const abz = c[o + 5] - c[o + 2];
    const acx = c[o + 6] - c[o];
    const acy = c[o + 7] - c[o + 1];
    const acz = c[o + 8] - c[o + 2];
    const apx = x - c[o];
    const apy = y - c[o + 1];
    const apz = z - c[o + 2];
    const d1 = abx * apx + aby * apy + abz * apz;
    const d2 = acx * apx + acy * apy + acz * apz;
    let u = 0;
    let v = 0;
    if (d1 > 0 || d2 > 0) {
      const bpx = x - c[o + 3];
      const bpy = y - c[o + 4];
      const bpz = z - c[o + 5];
      const d3 = abx * bpx + aby * bpy + abz * bpz;
      const d4 = acx * bpx + acy * bpy + acz * bpz;
      const cpx = x - c[o + 6];
      const cpy = y - c[o + 7];
      const cpz = z - c[o + 8];
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
    this.pu = u;
    this.pv = v;
    const ex = apx - u * abx - v * acx;
    const ey = apy - u * aby - v * acy;
    const ez = apz - u * abz - v * acz;
    return ex * ex + ey * ey + ez * ez;
  }
}
