import { fillTriangle } from '../image/raster';
import { RayQuery } from '../rays/query';
import { Around } from './around';
import { BAND, bandsOf, LAYERS } from './bands';
import { painted } from './dabs';
import { Frame } from './frame';
import type { BakeGeometry, BakePair } from './prepare';
import { Rounding } from './rounded';
import { firstSamples } from './samples';
import type { Texels } from './texels';

/** What the rays of a band found, one entry for each of its texels. */
export interface Found {
  /** Samples that met the high surface. */
  hits: Uint16Array;
  /** Pair, and triangle of its low mesh, of the sample nearest to the texel’s middle. */
  pairOf: Int16Array;
  triangleOf: Int32Array;
  /** Where that sample met the high surface and which way that faces there: 6 numbers, part space. */
  place: Float64Array;
  /** Weights of the second and third corner of that triangle there. */
  weights: Float32Array;
}

/** Bakes the bands one worker is given. Made once per worker: it holds the queries and the scratch of a band. */
export class BandBaker {
  private readonly queries: RayQuery[];
  private readonly roundings: (Rounding | null)[];
  private readonly rows: { pair: number; triangle: number }[][];
  private readonly frame = new Frame();
  /** Distances at a sample, where some were painted. */
  private readonly both = new Float64Array(2);
  private readonly sums: Float64Array;
  /** Sums of the high surface’s own directions and of heights, where wanted. */
  private readonly own: Float64Array;
  private readonly rise: Float64Array;
  /** Triangle of the high mesh that was met, where ids are its own. */
  private readonly highOf: Int32Array;
  /** Columns that are cast, and of these the ones that are wanted. */
  private from = 0;
  private to = 0;
  private inner = 0;
  private outer = 0;
  private readonly count: Uint16Array;
  private readonly nearest: Float32Array;
  /** Of the samples of a texel, row by row: which are cast first; and whether there are others. */
  private readonly first: Uint8Array;
  private readonly firsts: number;
  private readonly adaptive: boolean;
  /** Texels of the band whose other samples change something. */
  private readonly needs: Uint8Array;
  /** Least and largest height in a texel, in widths of it, where heights are wanted. */
  private readonly least: Float32Array;
  private readonly most: Float32Array;
  private readonly found: Found;
  private readonly around: Around;

  constructor(
    private readonly prepared: BakeGeometry,
    private readonly out: Texels,
  ) {
    const { pairs, size } = prepared;
    this.queries = pairs.map((p) => new RayQuery(p.high.tree));
    this.roundings = pairs.map((p) => p.rounded && new Rounding(p.rounded));
    const bands = Math.ceil(size / BAND);
    this.rows = Array.from({ length: bands }, () => []);
    for (const [pair, { low }] of pairs.entries())
      for (let t = 0; t < low.triangles; t++) {
        const [first, last] = bandsOf(low.uv, t, size);
        for (let b = first; b <= last; b++) this.rows[b].push({ pair, triangle: t });
      }
    const texels = BAND * size;
    this.sums = new Float64Array(3 * texels);
    this.own = new Float64Array(out.objectNormal.length > 0 ? 3 * texels : 0);
    this.rise = new Float64Array(out.height.length > 0 ? texels : 0);
    this.highOf = new Int32Array(prepared.idsOfHigh ? texels : 0);
    this.count = new Uint16Array(texels);
    this.nearest = new Float32Array(texels);
    this.first = firstSamples(prepared.samples);
    this.firsts = this.first.reduce((n, x) => n + x, 0);
    this.adaptive = this.firsts < this.first.length && !prepared.everySample;
    this.needs = new Uint8Array(this.adaptive ? texels : 0);
    this.least = new Float32Array(this.adaptive ? this.rise.length : 0);
    this.most = new Float32Array(this.least.length);
    this.found = {
      hits: new Uint16Array(texels),
      pairOf: new Int16Array(texels),
      triangleOf: new Int32Array(texels),
      place: new Float64Array(6 * texels),
      weights: new Float32Array(2 * texels),
    };
    this.around = new Around(prepared, out, this.queries, texels);
  }

  get bands(): number {
    return this.rows.length;
  }

  /** @param from columns of texels that are baked, up to and without `to`; all when absent */
  bake(band: number, from = 0, to = this.prepared.size): void {
    const { size } = this.prepared;
    this.from = this.inner = from;
    this.to = this.outer = to;
    const top = band * BAND;
    const rows = Math.min(BAND, size - top);
    clear(this.out, top, rows);
    this.sums.fill(0);
    this.own.fill(0);
    this.rise.fill(0);
    this.count.fill(0);
    this.found.hits.fill(0);
    this.nearest.fill(Infinity);
    this.least.fill(Infinity);
    this.most.fill(-Infinity);
    if (!this.adaptive) this.cast(band, top, rows, ALL);
    else {
      this.needs.fill(0);
      // One column more on either side: what lies beside a texel has a say in how closely it is looked at.
      this.from = Math.max(0, from - 1);
      this.to = Math.min(size, to + 1);
      this.cast(band, top, rows, FIRST);
      this.lookCloser(rows);
      this.forget(rows, this.from, from);
      this.forget(rows, to, this.to);
      this.from = from;
      this.to = to;
      this.cast(band, top, rows, REST);
    }
    for (let i = 0; i < rows * size; i++) this.finish(i, top * size + i);
    this.around.look(this.found, rows * size, top * size);
  }

  private cast(band: number, top: number, rows: number, which: Which): void {
    for (const { pair, triangle } of this.rows[band]) this.castTriangle(this.prepared.pairs[pair], pair, triangle, top, rows, which);
  }

  /**
   * Finds the texels whose other samples change something: one that an edge of an island or of the high mesh runs through, where normals
   * or heights spread, or that lies beside such a one. In all others the first samples stand for the rest; their mean is where a
   * texel's middle is, so that what bends evenly comes out the same.
   */
  private lookCloser(rows: number): void {
    const { size } = this.prepared;
    const { count, found, needs, sums, least, most } = this;
    for (let y = 0; y < rows; y++)
      for (let x = this.from; x < this.to; x++) {
        const i = y * size + x;
        const hits = found.hits[i];
        const r = Math.sqrt(sums[3 * i] ** 2 + sums[3 * i + 1] ** 2 + sums[3 * i + 2] ** 2);
        const steps = least.length > 0 && most[i] - least[i] > STEP;
        if (hits < count[i] || r < EVEN * hits || steps || needs[i] === BACK) {
          for (let v = Math.max(0, y - 1); v <= Math.min(rows - 1, y + 1); v++)
            for (let u = Math.max(this.from, x - 1); u <= Math.min(this.to - 1, x + 1); u++) needs[v * size + u] ||= 1;
        } else if (count[i] !== this.firsts) needs[i] ||= 1;
      }
    const { samples } = this.out.counts;
    for (let y = 0; y < rows; y++)
      for (let x = this.inner; x < this.outer; x++) {
        const i = y * size + x;
        if (needs[i] === 0) samples[found.pairOf[i]] += this.first.length - this.firsts;
      }
  }

  /** Leaves out columns that only had a say. */
  private forget(rows: number, from: number, to: number): void {
    const { size } = this.prepared;
    for (let y = 0; y < rows; y++) {
      this.count.fill(0, y * size + from, y * size + to);
      this.found.hits.fill(0, y * size + from, y * size + to);
    }
  }

  // Hot: per sample one ray, nothing allocated.
  private castTriangle(pair: BakePair, pairIndex: number, t: number, top: number, rows: number, which: Which): void {
    const { size, samples: s } = this.prepared;
    const { first, needs, inner, outer, least, most } = this;
    const { low, high, dabs } = pair;
    const { both, found, frame, own, rise, highOf, from, to } = this;
    const query = this.queries[pairIndex];
    const rounding = this.roundings[pairIndex];
    const { counts } = this.out;
    const fine = size * s;
    const { uv, position: P, cage: C, front: F, rear: R } = low;
    const o6 = 6 * t;
    const o9 = 9 * t;
    const o3 = 3 * t;
    const tree = high.normals;
    const wide = least.length > 0 ? texelWidth(low, t) / size : 1;
    let [rays, samples, missed, back] = [0, 0, 0, 0];
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
        if (x < from || x >= to) return;
        const fineRow = (py / s) | 0;
        const y = fineRow - top;
        const i = y * size + x;
        if (which !== ALL) {
          const early = first[(py - fineRow * s) * s + px - x * s];
          if (which === FIRST ? early === 0 : early === 1 || needs[i] === 0) return;
        }
        this.count[i]++;
        const wanted = x >= inner && x < outer;
        if (wanted) samples++;
        rays++;
        let dx = w0 * C[o9] + w1 * C[o9 + 3] + w2 * C[o9 + 6];
        let dy = w0 * C[o9 + 1] + w1 * C[o9 + 4] + w2 * C[o9 + 7];
        let dz = w0 * C[o9 + 2] + w1 * C[o9 + 5] + w2 * C[o9 + 8];
        const l = 1 / (Math.sqrt(dx * dx + dy * dy + dz * dz) || 1);
        dx *= l;
        dy *= l;
        dz *= l;
        let front = w0 * F[o3] + w1 * F[o3 + 1] + w2 * F[o3 + 2];
        let rear = w0 * R[o3] + w1 * R[o3 + 1] + w2 * R[o3 + 2];
        let ox = w0 * P[o9] + w1 * P[o9 + 3] + w2 * P[o9 + 6];
        let oy = w0 * P[o9 + 1] + w1 * P[o9 + 4] + w2 * P[o9 + 7];
        let oz = w0 * P[o9 + 2] + w1 * P[o9 + 5] + w2 * P[o9 + 8];
        if (dabs.length > 0) {
          both[0] = front;
          both[1] = rear;
          painted(dabs, ox, oy, oz, both);
          front = both[0];
          rear = both[1];
        }
        ox += dx * front;
        oy += dy * front;
        oz += dz * front;
        if (!query.closest(ox, oy, oz, -dx, -dy, -dz, -1e-9, front + rear)) {
          if (wanted) missed++;
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
        if (nx * dx + ny * dy + nz * dz < 0) {
          if (wanted) back++;
          if (which === FIRST) needs[i] = BACK;
        }
        const [hx, hy, hz] = [ox - dx * query.t, oy - dy * query.t, oz - dz * query.t];
        if (rounding?.at(query.triangle, hx, hy, hz, nx, ny, nz)) {
          nx = rounding.x;
          ny = rounding.y;
          nz = rounding.z;
        }
        found.hits[i]++;
        frame.set(low, t, w0, w1, w2);
        frame.into(nx, ny, nz);
        this.sums[3 * i] += frame.x;
        this.sums[3 * i + 1] += frame.y;
        this.sums[3 * i + 2] += frame.z;
        if (own.length > 0) {
          own[3 * i] += nx;
          own[3 * i + 1] += ny;
          own[3 * i + 2] += nz;
        }
        if (rise.length > 0) {
          const height = front - query.t;
          rise[i] += height;
          if (which === FIRST) {
            least[i] = Math.min(least[i], height / wide);
            most[i] = Math.max(most[i], height / wide);
          }
        }
        const off = Math.abs((px + 0.5) / s - x - 0.5) + Math.abs((py + 0.5) / s - y - top - 0.5);
        if (off < this.nearest[i]) {
          this.nearest[i] = off;
          found.pairOf[i] = pairIndex;
          found.triangleOf[i] = t;
          if (highOf.length > 0) highOf[i] = query.triangle;
          found.weights[2 * i] = w1;
          found.weights[2 * i + 1] = w2;
          const p = 6 * i;
          found.place[p] = hx;
          found.place[p + 1] = hy;
          found.place[p + 2] = hz;
          found.place[p + 3] = nx;
          found.place[p + 4] = ny;
          found.place[p + 5] = nz;
        }
      },
      top * s,
    );
    counts.rays += rays;
    counts.samples[pairIndex] += samples;
    counts.missed[pairIndex] += missed;
    counts.back[pairIndex] += back;
  }

  /** Whether the high surface faces as the low triangle itself does: then only its shading is mended. */
  private onFace({ low }: BakePair, i: number): boolean {
    const o = 9 * this.found.triangleOf[i];
    const p = low.position;
    const [ax, ay, az] = [p[o + 3] - p[o], p[o + 4] - p[o + 1], p[o + 5] - p[o + 2]];
    const [bx, by, bz] = [p[o + 6] - p[o], p[o + 7] - p[o + 1], p[o + 8] - p[o + 2]];
    const [nx, ny, nz] = [ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx];
    const l = Math.sqrt(nx * nx + ny * ny + nz * nz) || 1;
    const at = 6 * i + 3;
    const { place } = this.found;
    return (nx * place[at] + ny * place[at + 1] + nz * place[at + 2]) / l > FLAT;
  }

  private finish(i: number, texel: number): void {
    const { out, found } = this;
    const hits = found.hits[i];
    if (this.count[i] === 0) return;
    if (hits === 0) {
      out.state[texel] = 2;
      return;
    }
    out.state[texel] = 1;
    unitInto(this.sums, i, out.normal, texel);
    if (this.own.length > 0) unitInto(this.own, i, out.objectNormal, texel);
    if (this.rise.length > 0) out.height[texel] = this.rise[i] / hits;
    if (out.opacity.length > 0) out.opacity[texel] = hits / this.count[i];
    const pair = this.prepared.pairs[found.pairOf[i]];
    out.counts.texels[found.pairOf[i]]++;
    if (this.count[i] > this.first.length) out.counts.doubled[found.pairOf[i]]++;
    if (out.normal[3 * texel + 2] < LEANS && this.onFace(pair, i)) out.counts.mending[found.pairOf[i]]++;
    if (out.id.length > 0 && pair.ids) out.id[texel] = pair.ids[this.prepared.idsOfHigh ? this.highOf[i] : found.triangleOf[i]];
    if (out.position.length > 0) {
      const m = pair.toScene;
      const o = 6 * i;
      const p = found.place;
      for (let k = 0; k < 3; k++) out.position[3 * texel + k] = m[k] * p[o] + m[4 + k] * p[o + 1] + m[8 + k] * p[o + 2] + m[12 + k];
    }
  }
}

/** How many millimetres the whole tile would be wide at a triangle’s scale. */
function texelWidth({ uv, position: p }: BakePair['low'], t: number): number {
  const o = 9 * t;
  const u = 6 * t;
  const [ax, ay, az] = [p[o + 3] - p[o], p[o + 4] - p[o + 1], p[o + 5] - p[o + 2]];
  const [bx, by, bz] = [p[o + 6] - p[o], p[o + 7] - p[o + 1], p[o + 8] - p[o + 2]];
  const space = Math.hypot(ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx);
  const flat = Math.abs((uv[u + 2] - uv[u]) * (uv[u + 5] - uv[u + 1]) - (uv[u + 3] - uv[u + 1]) * (uv[u + 4] - uv[u]));
  return Math.sqrt(space / (flat || 1)) || 1;
}

/** Samples that a pass over the triangles casts: all; those that are cast first; the others, where they change something. */
type Which = typeof ALL | typeof FIRST | typeof REST;
const ALL = 0;
const FIRST = 1;
const REST = 2;
/** A texel one of whose first samples met a back face. */
const BACK = 2;
/** How far the mean of a texel’s normals may fall short of a whole one: they spread by no more than 2°, root mean square. */
const EVEN = 1 - 0.5 * ((2 * Math.PI) / 180) ** 2;
/** Heights in a texel that differ by more of its width make a step. */
const STEP = 0.5;

/** Cosines: the map leans away from how the low mesh is shaded by more than 5°, and what it shows is its flat face to within 3°. */
const LEANS = Math.cos((5 * Math.PI) / 180);
const FLAT = Math.cos((3 * Math.PI) / 180);

/** Empties rows of a map: a band may be baked over what was found with other distances. */
function clear(out: Texels, top: number, rows: number): void {
  const { size } = out;
  for (const layer of LAYERS) {
    const array = out[layer];
    const each = array.length / (size * size);
    if (each > 0) array.fill(0, each * top * size, each * (top + rows) * size);
  }
}

function unitInto(sums: Float64Array, i: number, out: Float32Array, texel: number): void {
  const [x, y, z] = [sums[3 * i], sums[3 * i + 1], sums[3 * i + 2]];
  const l = Math.hypot(x, y, z) || 1;
  out[3 * texel] = x / l;
  out[3 * texel + 1] = y / l;
  out[3 * texel + 2] = z / l;
}
