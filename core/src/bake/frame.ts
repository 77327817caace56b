import type { LowSide } from './prepare';

/**
 * The frame that a viewer builds at a place of a triangle: normal and tangent interpolated and made unit, bitangent their cross product
 * times the tangent’s sign. Nothing is allocated; answers stand in its fields.
 */
export class Frame {
  readonly t = new Float64Array(3);
  readonly b = new Float64Array(3);
  readonly n = new Float64Array(3);
  /** A direction in the frame, unit. */
  x = 0;
  y = 0;
  z = 0;

  /** @param tri triangle of the low mesh; w0…w2 barycentric */
  set(low: Pick<LowSide, 'normal' | 'tangent'>, tri: number, w0: number, w1: number, w2: number): void {
    const { normal: N, tangent: T } = low;
    const o9 = 9 * tri;
    const o12 = 12 * tri;
    let fx = w0 * N[o9] + w1 * N[o9 + 3] + w2 * N[o9 + 6];
    let fy = w0 * N[o9 + 1] + w1 * N[o9 + 4] + w2 * N[o9 + 7];
    let fz = w0 * N[o9 + 2] + w1 * N[o9 + 5] + w2 * N[o9 + 8];
    const fl = 1 / (Math.sqrt(fx * fx + fy * fy + fz * fz) || 1);
    fx *= fl;
    fy *= fl;
    fz *= fl;
    let tx = w0 * T[o12] + w1 * T[o12 + 4] + w2 * T[o12 + 8];
    let ty = w0 * T[o12 + 1] + w1 * T[o12 + 5] + w2 * T[o12 + 9];
    let tz = w0 * T[o12 + 2] + w1 * T[o12 + 6] + w2 * T[o12 + 10];
    const tl = 1 / (Math.sqrt(tx * tx + ty * ty + tz * tz) || 1);
    tx *= tl;
    ty *= tl;
    tz *= tl;
    const sign = T[o12 + 3];
    const bx = (fy * tz - fz * ty) * sign;
    const by = (fz * tx - fx * tz) * sign;
    const bz = (fx * ty - fy * tx) * sign;
    const bl = 1 / (Math.sqrt(bx * bx + by * by + bz * bz) || 1);
    const { t, b, n } = this;
    t[0] = tx;
    t[1] = ty;
    t[2] = tz;
    b[0] = bx * bl;
    b[1] = by * bl;
    b[2] = bz * bl;
    n[0] = fx;
    n[1] = fy;
    n[2] = fz;
  }

  /** n = x·T + y·B + z·N, solved by Cramer’s rule: T and N need not be at right angles. */
  into(nx: number, ny: number, nz: number): void {
    const { t, b: across, n: up } = this;
    const tx = t[0];
    const ty = t[1];
    const tz = t[2];
    const bx = across[0];
    const by = across[1];
    const bz = across[2];
    const fx = up[0];
    const fy = up[1];
    const fz = up[2];
    const cx = by * fz - bz * fy;
    const cy = bz * fx - bx * fz;
    const cz = bx * fy - by * fx;
    const det = tx * cx + ty * cy + tz * cz || 1e-9;
    const a = (nx * cx + ny * cy + nz * cz) / det;
    const b = (tx * (ny * fz - nz * fy) + ty * (nz * fx - nx * fz) + tz * (nx * fy - ny * fx)) / det;
    const c = (tx * (by * nz - bz * ny) + ty * (bz * nx - bx * nz) + tz * (bx * ny - by * nx)) / det;
    const l = 1 / (Math.sqrt(a * a + b * b + c * c) || 1);
    this.x = a * l;
    this.y = b * l;
    this.z = c * l;
  }
}
