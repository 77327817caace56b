import { fillTriangle } from '../image/raster';
import { hash32, sobolRow, turnCos, turnSin } from '../maths/random';
import { MOST, RayBatch } from '../rays/batch';
import { RayQuery } from '../rays/query';
import type { BakeGeometry, BakePair } from './prepare';

/** Rows baked at once; the unit that workers take and that progress counts. */
export const BAND = 16;

/** Raw result of the texel pass, top row first. */
export interface Texels {
  size: number;
  /** 3 per texel, tangent space, unit; zero where nothing was found. */
  normal: Float32Array;
  /** 0…1, one per texel. */
  occlusion: Float32Array;
  /** Curvature times the radius it is taken at, −1 (hollow) … 1 (edge), one per texel. */
  curvature: Float32Array;
  /** 0 outside the islands, 1 covered, 2 covered but every ray missed. */
  state: Uint8Array;
  /** Rays of all bands: cast, missed, met a back face. */
  counts: { rays: number; missed: number; back: number; samples: number };
}

/** Texels of a map of `size` × `size` before anything was cast, in memory that workers can share. */
export function emptyTexels(size: number, allocate: (bytes: number) => ArrayBufferLike = (n) => new ArrayBuffer(n)): Texels {
  const n = size * size;
  return {
    size,
    normal: new Float32Array(allocate(12 * n)),
    occlusion: new Float32Array(allocate(4 * n)),
    curvature: new Float32Array(allocate(4 * n)),
    state: new Uint8Array(allocate(n)),
    counts: { rays: 0, missed: 0, back: 0, samples: 0 },
  };
}

const BEND_COS = Float64Array.from({ length: 6 }, (_, k) => Math.cos((k * Math.PI) / 3));
const BEND_SIN = Float64Array.from({ length: 6 }, (_, k) => Math.sin((k * Math.PI) / 3));

/** Bakes the bands one worker is given. Made once per worker: it holds the queries and the scratch of a band. */
export class BandBaker {
  private readonly queries: RayQuery[];
  private readonly scene: RayQuery | null;
  /** By pair: the part alone, where it doesn’t occlude others. */
  private readonly own: (RayQuery | null)[];
  private readonly rows: { pair: number; triangle: number }[][];
  private readonly sums: Float64Array;
  private readonly place: Float64Array;
  private readonly count: Uint16Array;
  private readonly hits: Uint16Array;
  private readonly nearest: Float32Array;
  private readonly pairOf: Int16Array;
  private readonly points: Float64Array;
  /** Rays of occlusion on their way: which texel of the band each is for. */
  private readonly batch: RayBatch | null;
  private readonly owner = new Uint32Array(MOST);
  /** Of each such ray: origin and direction, for the part that is dark by itself. */
  private readonly sent = new Float64Array(6 * MOST);
  private readonly open: Uint16Array;
  private readonly met = new Int32Array(MOST);

  constructor(
    private readonly prepared: BakeGeometry,
    private readonly out: Texels,
  ) {
    this.queries = prepared.pairs.map((p) => new RayQuery(p.high.tree));
    this.scene = prepared.scene && new RayQuery(prepared.scene);
    this.own = prepared.pairs.map((p) => p.own && new RayQuery(p.own));
    this.batch = this.scene && new RayBatch(this.scene);
    this.points = new Float64Array(2 * prepared.occlusionRays);
    const bands = Math.ceil(prepared.size / BAND);
    this.rows = Array.from({ length: bands }, () => []);
    for (const [pair, { low }] of prepared.pairs.entries())
      for (let t = 0; t < low.triangles; t++) {
        const v = [1, 3, 5].map((k) => (1 - low.uv[6 * t + k]) * prepared.size);
        const from = Math.max(0, Math.floor((Math.min(...v) - 1) / BAND));
        const to = Math.min(bands - 1, Math.floor((Math.max(...v) + 1) / BAND));
        for (let b = from; b <= to; b++) this.rows[b].push({ pair, triangle: t });
      }
    const texels = BAND * prepared.size;
    this.sums = new Float64Array(3 * texels);
    this.place = new Float64Array(6 * texels);
    this.count = new Uint16Array(texels);
    this.hits = new Uint16Array(texels);
    this.nearest = new Float32Array(texels);
    this.pairOf = new Int16Array(texels);
    this.open = new Uint16Array(texels);
  }

  get bands(): number {
    return this.rows.length;
  }

  bake(band: number): void {
    const { size } = this.prepared;
    const top = band * BAND;
    const rows = Math.min(BAND, size - top);
    this.sums.fill(0);
    this.count.fill(0);
    this.hits.fill(0);
    this.nearest.fill(Infinity);
    for (const { pair, triangle } of this.rows[band]) this.castTriangle(this.prepared.pairs[pair], pair, triangle, top, rows);
    for (let i = 0; i < rows * size; i++) this.finish(i, top * size + i);
    if (this.batch) this.occlude(rows * size, top * size);
  }

  // Hot: per sample one ray, no allocation but the frame's numbers.
  private castTriangle(pair: BakePair, pairIndex: number, t: number, top: number, rows: number): void {
    const { size, samples: s } = this.prepared;
    const { low, high } = pair;
    const query = this.queries[pairIndex];
    const { counts } = this.out;
    const fine = size * s;
    const { uv, position: P, cage: C, normal: N, tangent: T, front: F, rear: R } = low;
    const o6 = 6 * t;
    const o9 = 9 * t;
    const o12 = 12 * t;
    const o3 = 3 * t;
    const tree = high.normals;
    fillTriangle(
      uv[o6] * fine,
      (1 - uv[o6 + 1]) * fine,
      uv[o6 + 2] * fine,
      (1 - uv[o6 + 3]) * fine,
      uv[o6 + 4] * fine,
      (1 - uv[o6 + 5]) * fine,
      fine,
      (top + rows) * s,
      (px, py, w0, w1, w2) => {
        const x = (px / s) | 0;
        const y = ((py / s) | 0) - top;
        const i = y * size + x;
        this.count[i]++;
        counts.samples++;
        let dx = w0 * C[o9] + w1 * C[o9 + 3] + w2 * C[o9 + 6];
        let dy = w0 * C[o9 + 1] + w1 * C[o9 + 4] + w2 * C[o9 + 7];
        let dz = w0 * C[o9 + 2] + w1 * C[o9 + 5] + w2 * C[o9 + 8];
        const l = 1 / (Math.sqrt(dx * dx + dy * dy + dz * dz) || 1);
        dx *= l;
        dy *= l;
        dz *= l;
        const front = w0 * F[o3] + w1 * F[o3 + 1] + w2 * F[o3 + 2];
        const rear = w0 * R[o3] + w1 * R[o3 + 1] + w2 * R[o3 + 2];
        const ox = w0 * P[o9] + w1 * P[o9 + 3] + w2 * P[o9 + 6] + dx * front;
        const oy = w0 * P[o9 + 1] + w1 * P[o9 + 4] + w2 * P[o9 + 7] + dy * front;
        const oz = w0 * P[o9 + 2] + w1 * P[o9 + 5] + w2 * P[o9 + 8] + dz * front;
        counts.rays++;
        if (!query.closest(ox, oy, oz, -dx, -dy, -dz, -1e-9, front + rear)) {
          counts.missed++;
          return;
        }
        const h = 9 * query.triangle;
        const u = query.u;
        const v = query.v;
        const w = 1 - u - v;
        let nx = w * tree[h] + u * tree[h + 3] + v * tree[h + 6];
        let ny = w * tree[h + 1] + u * tree[h + 4] + v * tree[h + 7];
        let nz = w * tree[h + 2] + u * tree[h + 5] + v * tree[h + 8];
        const nl = 1 / (Math.sqrt(nx * nx + ny * ny + nz * nz) || 1);
        nx *= nl;
        ny *= nl;
        nz *= nl;
        if (nx * dx + ny * dy + nz * dz < 0) counts.back++;
        this.hits[i]++;
        // The frame a viewer uses: normal and tangent interpolated and made unit, bitangent their cross product.
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
        let bx = (fy * tz - fz * ty) * sign;
        let by = (fz * tx - fx * tz) * sign;
        let bz = (fx * ty - fy * tx) * sign;
        const bl = 1 / (Math.sqrt(bx * bx + by * by + bz * bz) || 1);
        bx *= bl;
        by *= bl;
        bz *= bl;
        // n = a·T + b·B + c·N, solved by Cramer's rule: T and N need not be at right angles.
        const cx = by * fz - bz * fy;
        const cy = bz * fx - bx * fz;
        const cz = bx * fy - by * fx;
        const det = tx * cx + ty * cy + tz * cz || 1e-9;
        const a = (nx * cx + ny * cy + nz * cz) / det;
        const b = (tx * (ny * fz - nz * fy) + ty * (nz * fx - nx * fz) + tz * (nx * fy - ny * fx)) / det;
        const c = (tx * (by * nz - bz * ny) + ty * (bz * nx - bx * nz) + tz * (bx * ny - by * nx)) / det;
        const cl = 1 / (Math.sqrt(a * a + b * b + c * c) || 1);
        this.sums[3 * i] += a * cl;
        this.sums[3 * i + 1] += b * cl;
        this.sums[3 * i + 2] += c * cl;
        const off = Math.abs((px + 0.5) / s - x - 0.5) + Math.abs((py + 0.5) / s - y - top - 0.5);
        if (off < this.nearest[i]) {
          this.nearest[i] = off;
          this.pairOf[i] = pairIndex;
          const p = 6 * i;
          this.place[p] = ox - dx * query.t;
          this.place[p + 1] = oy - dy * query.t;
          this.place[p + 2] = oz - dz * query.t;
          this.place[p + 3] = nx;
          this.place[p + 4] = ny;
          this.place[p + 5] = nz;
        }
      },
      top * s,
    );
  }

  private finish(i: number, texel: number): void {
    const { out, prepared } = this;
    if (this.count[i] === 0) return;
    if (this.hits[i] === 0) {
      out.state[texel] = 2;
      return;
    }
    out.state[texel] = 1;
    const [x, y, z] = [this.sums[3 * i], this.sums[3 * i + 1], this.sums[3 * i + 2]];
    const l = Math.hypot(x, y, z) || 1;
    out.normal[3 * texel] = x / l;
    out.normal[3 * texel + 1] = y / l;
    out.normal[3 * texel + 2] = z / l;
    if (prepared.curvatureRadiusMm > 0) out.curvature[texel] = this.bend(i, prepared.curvatureRadiusMm);
  }

  /**
   * How the high surface bends round a hit: at a radius r in six directions, how far it lies below (or above) the tangent
   * plane; a circle through both has κ = −2h/(r² + h²). The mean of six, times r. Nothing below within r counts as h = −r, a
   * wall in the way as h = r.
   */
  private bend(i: number, r: number): number {
    const query = this.queries[this.pairOf[i]];
    const p = this.place;
    const o = 6 * i;
    const nx = p[o + 3];
    const ny = p[o + 4];
    const nz = p[o + 5];
    const s = nz >= 0 ? 1 : -1;
    const a = -1 / (s + nz);
    const b = nx * ny * a;
    const lift = 0.02 * r;
    const x = p[o] + nx * lift;
    const y = p[o + 1] + ny * lift;
    const z = p[o + 2] + nz * lift;
    let sum = 0;
    for (let k = 0; k < 6; k++) {
      const u = BEND_COS[k];
      const v = BEND_SIN[k];
      const tx = u * (1 + s * nx * nx * a) + v * b;
      const ty = u * s * b + v * (s + ny * ny * a);
      const tz = u * -s * nx + v * -ny;
      // Out and up, then down: walls first.
      if (query.any(x, y, z, tx + nx, ty + ny, tz + nz, 0, 0.98 * r)) {
        sum -= 1;
        continue;
      }
      const met = query.closest(p[o] + r * (tx + nx), p[o + 1] + r * (ty + ny), p[o + 2] + r * (tz + nz), -nx, -ny, -nz, 0, 2 * r);
      const h = met ? r - query.t : -r;
      sum += (-2 * h * r) / (r * r + h * h);
    }
    this.out.counts.rays += 12;
    return sum / 6;
  }

  /** Occlusion of a band: its rays are gathered and followed together. */
  private occlude(texels: number, from: number): void {
    const { out, prepared } = this;
    if (prepared.occlusionRays === 0) return;
    this.open.fill(0);
    for (let i = 0; i < texels; i++) if (this.hits[i] > 0) this.send(i, from + i);
    this.follow();
    for (let i = 0; i < texels; i++) if (this.hits[i] > 0) out.occlusion[from + i] = this.open[i] / prepared.occlusionRays;
  }

  /** Cosine-weighted rays from where a texel lies: scrambled Sobol, a sequence of its own for every texel. */
  private send(i: number, texel: number): void {
    const { points, sent, owner } = this;
    const { occlusionRays, reachMm, pairs } = this.prepared;
    const batch = this.batch as RayBatch;
    const pair = pairs[this.pairOf[i]];
    const m = pair.toScene;
    const q = pair.normalToScene;
    const p = this.place;
    const o = 6 * i;
    let nx = q[0] * p[o + 3] + q[4] * p[o + 4] + q[8] * p[o + 5];
    let ny = q[1] * p[o + 3] + q[5] * p[o + 4] + q[9] * p[o + 5];
    let nz = q[2] * p[o + 3] + q[6] * p[o + 4] + q[10] * p[o + 5];
    const l = 1 / (Math.sqrt(nx * nx + ny * ny + nz * nz) || 1);
    nx *= l;
    ny *= l;
    nz *= l;
    // Off the surface by two thousandths of a millimetre, so that its own facet is not in the way.
    const x = m[0] * p[o] + m[4] * p[o + 1] + m[8] * p[o + 2] + m[12] + nx * 0.002;
    const y = m[1] * p[o] + m[5] * p[o + 1] + m[9] * p[o + 2] + m[13] + ny * 0.002;
    const z = m[2] * p[o] + m[6] * p[o + 1] + m[10] * p[o + 2] + m[14] + nz * 0.002;
    // A frame round the normal without a branch on its length (Duff et al. 2017).
    const s = nz >= 0 ? 1 : -1;
    const a = -1 / (s + nz);
    const b = nx * ny * a;
    const tx = 1 + s * nx * nx * a;
    const ty = s * b;
    const tz = -s * nx;
    const bx = b;
    const by = s + ny * ny * a;
    const bz = -ny;
    sobolRow(occlusionRays, hash32(texel ^ 0x9e3779b9), points);
    for (let k = 0; k < occlusionRays; k++) {
      const r = Math.sqrt(points[2 * k]);
      const u = r * turnCos(points[2 * k + 1]);
      const v = r * turnSin(points[2 * k + 1]);
      const w = Math.sqrt(1 - points[2 * k]);
      const at = batch.size;
      const c = 6 * at;
      sent[c] = x;
      sent[c + 1] = y;
      sent[c + 2] = z;
      sent[c + 3] = u * tx + v * bx + w * nx;
      sent[c + 4] = u * ty + v * by + w * ny;
      sent[c + 5] = u * tz + v * bz + w * nz;
      owner[at] = i;
      batch.put(x, y, z, sent[c + 3], sent[c + 4], sent[c + 5], 0.001, reachMm);
      if (at === MOST - 1) this.follow();
    }
    this.out.counts.rays += occlusionRays;
  }

  /** Counts the rays that get away from the scene, and from the part alone where it is dark by itself. */
  private follow(): void {
    const { owner, open, sent } = this;
    const batch = this.batch as RayBatch;
    const count = batch.size;
    // Kept apart: asking the part alone may move the memory that they lie in.
    const hits = this.met;
    hits.set(batch.run(true, true).subarray(0, count));
    for (let k = 0; k < count; k++) {
      if (hits[k] >= 0) continue;
      const own = this.own[this.pairOf[owner[k]]];
      const c = 6 * k;
      if (own?.any(sent[c], sent[c + 1], sent[c + 2], sent[c + 3], sent[c + 4], sent[c + 5], 0.001, this.prepared.reachMm)) continue;
      open[owner[k]]++;
    }
  }
}
