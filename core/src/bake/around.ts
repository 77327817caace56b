import { hash32, sobolRow, turnCos, turnSin } from '../maths/random';
import { MOST, RayBatch } from '../rays/batch';
import { RayQuery } from '../rays/query';
import type { Found } from './cast';
import { Frame } from './frame';
import type { BakeGeometry, BakePair } from './prepare';
import type { Texels } from './texels';

const BEND_COS = Float64Array.from({ length: 6 }, (_, k) => Math.cos((k * Math.PI) / 3));
const BEND_SIN = Float64Array.from({ length: 6 }, (_, k) => Math.sin((k * Math.PI) / 3));
/** Off the surface by two thousandths of a millimetre, so that its own facet is not in the way. */
const OFF_MM = 0.002;
const AHEAD_MM = 0.001;
const radians = (degrees: number) => (degrees * Math.PI) / 180;

/** Looks round from where the rays of a band met the high surface: how it bends, how open it lies, how thick it is below. */
export class Around {
  private readonly scene: RayQuery | null;
  /** By pair: the part alone, where it doesn’t occlude others. */
  private readonly own: (RayQuery | null)[];
  private readonly points: Float64Array;
  private readonly deep: Float64Array;
  /** Rays of occlusion on their way: which texel of the band each is for. */
  private readonly batch: RayBatch | null;
  private readonly owner = new Uint32Array(MOST);
  /** Of each such ray: origin and direction, for the part that is dark by itself, and for the middle of what is open. */
  private readonly sent = new Float64Array(6 * MOST);
  private readonly open: Uint16Array;
  private readonly middle: Float64Array;
  private readonly met = new Int32Array(MOST);
  private readonly frame = new Frame();
  private alone = false;
  /** By pair: the part alone, where its rays are to ask it beside the scene, or in its place. */
  private asked: (RayQuery | null)[] = [];

  constructor(
    private readonly prepared: BakeGeometry,
    private readonly out: Texels,
    private readonly queries: readonly RayQuery[],
    texels: number,
  ) {
    this.scene = prepared.scene && new RayQuery(prepared.scene);
    this.own = prepared.pairs.map((p) => p.own && new RayQuery(p.own));
    this.batch = this.scene && new RayBatch(this.scene);
    this.points = new Float64Array(2 * prepared.occlusionRays);
    this.deep = new Float64Array(2 * prepared.thickness.rays);
    this.open = new Uint16Array(texels);
    this.middle = new Float64Array(out.bentNormal.length > 0 ? 3 * texels : 0);
  }

  /** @param from texel of the whole map that the band’s first is */
  look(found: Found, texels: number, from: number): void {
    const { prepared, out } = this;
    const { curvatureRadiusMm } = prepared;
    if (out.curvature.length > 0)
      for (let i = 0; i < texels; i++) if (found.hits[i] > 0) out.curvature[from + i] = this.bend(found, i, curvatureRadiusMm);
    if (out.thickness.length > 0)
      for (let i = 0; i < texels; i++) if (found.hits[i] > 0) out.thickness[from + i] = this.thick(found, i, from + i);
    if (this.batch && prepared.occlusionRays > 0) this.occlude(found, texels, from);
  }

  /**
   * How the high surface bends round a hit: at a radius r in six directions, how far it lies below (or above) the tangent
   * plane; a circle through both has κ = −2h/(r² + h²). The mean of six, times r. Nothing below within r counts as h = −r, a
   * wall in the way as h = r.
   */
  private bend(found: Found, i: number, r: number): number {
    const query = this.queries[found.pairOf[i]];
    const p = found.place;
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

  /**
   * How thick the body is below a hit: rays into it within a cone round the direction straight in, by the cosine, each as deep as it goes
   * straight down; nothing met within reach counts as the reach. A slab gives its thickness, a ball D · (1 + cos²α)/2 for a cone of α.
   */
  private thick(found: Found, i: number, texel: number): number {
    const { rays, reachMm, coneDegrees } = this.prepared.thickness;
    const query = this.queries[found.pairOf[i]];
    const p = found.place;
    const o = 6 * i;
    const [nx, ny, nz] = [-p[o + 3], -p[o + 4], -p[o + 5]];
    const x = p[o] + nx * OFF_MM;
    const y = p[o + 1] + ny * OFF_MM;
    const z = p[o + 2] + nz * OFF_MM;
    const s = nz >= 0 ? 1 : -1;
    const a = -1 / (s + nz);
    const b = nx * ny * a;
    const wide = Math.sin(radians(coneDegrees)) ** 2;
    sobolRow(rays, hash32(texel ^ 0x51ed270b), this.deep);
    let sum = 0;
    for (let k = 0; k < rays; k++) {
      const out = wide * this.deep[2 * k];
      const r = Math.sqrt(out);
      const u = r * turnCos(this.deep[2 * k + 1]);
      const v = r * turnSin(this.deep[2 * k + 1]);
      const w = Math.sqrt(1 - out);
      const met = query.closest(
        x,
        y,
        z,
        u * (1 + s * nx * nx * a) + v * b + w * nx,
        u * s * b + v * (s + ny * ny * a) + w * ny,
        u * -s * nx + v * -ny + w * nz,
        AHEAD_MM,
        reachMm / w,
      );
      sum += met ? Math.min(reachMm, query.t * w + OFF_MM) : reachMm;
    }
    this.out.counts.rays += rays;
    return sum / rays;
  }

  /** Occlusion of a band: its rays are gathered and followed together. */
  private occlude(found: Found, texels: number, from: number): void {
    const { out, prepared } = this;
    const bends = this.middle.length > 0;
    const { alone } = prepared;
    this.sendAll(found, texels, from, alone.occlusion);
    if (out.occlusion.length > 0)
      for (let i = 0; i < texels; i++) if (found.hits[i] > 0) out.occlusion[from + i] = this.open[i] / prepared.occlusionRays;
    if (!bends) return;
    if (alone.bentNormal !== alone.occlusion) this.sendAll(found, texels, from, alone.bentNormal);
    for (let i = 0; i < texels; i++) if (found.hits[i] > 0) this.bent(found, i, from + i);
  }

  /** The rays of all texels. @param alone they see nothing but the part they start from */
  private sendAll(found: Found, texels: number, from: number, alone: boolean): void {
    this.alone = alone;
    // What occludes others is in the scene already.
    this.asked = this.own.map((own, i) => (alone || !this.prepared.pairs[i].shades ? own : null));
    this.open.fill(0);
    this.middle.fill(0);
    for (let i = 0; i < texels; i++) if (found.hits[i] > 0) this.send(found, i, from + i);
    this.follow(found);
  }

  /** Cosine-weighted rays from where a texel lies: scrambled Sobol, a sequence of its own for every texel. */
  private send(found: Found, i: number, texel: number): void {
    const { points, sent, owner } = this;
    const { occlusionRays, reachMm, spreadDegrees, pairs } = this.prepared;
    const batch = this.batch as RayBatch;
    const pair = pairs[found.pairOf[i]];
    const m = pair.lit.toScene;
    const q = pair.lit.normalToScene;
    const p = found.place;
    const o = 6 * i;
    let nx = q[0] * p[o + 3] + q[4] * p[o + 4] + q[8] * p[o + 5];
    let ny = q[1] * p[o + 3] + q[5] * p[o + 4] + q[9] * p[o + 5];
    let nz = q[2] * p[o + 3] + q[6] * p[o + 4] + q[10] * p[o + 5];
    const l = 1 / (Math.sqrt(nx * nx + ny * ny + nz * nz) || 1);
    nx *= l;
    ny *= l;
    nz *= l;
    const x = m[0] * p[o] + m[4] * p[o + 1] + m[8] * p[o + 2] + m[12] + nx * OFF_MM;
    const y = m[1] * p[o] + m[5] * p[o + 1] + m[9] * p[o + 2] + m[13] + ny * OFF_MM;
    const z = m[2] * p[o] + m[6] * p[o + 1] + m[10] * p[o + 2] + m[14] + nz * OFF_MM;
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
    const wide = spreadDegrees >= 90 ? 1 : Math.sin(radians(spreadDegrees)) ** 2;
    sobolRow(occlusionRays, hash32(texel ^ 0x9e3779b9), points);
    for (let k = 0; k < occlusionRays; k++) {
      const out = wide * points[2 * k];
      const r = Math.sqrt(out);
      const u = r * turnCos(points[2 * k + 1]);
      const v = r * turnSin(points[2 * k + 1]);
      const w = Math.sqrt(1 - out);
      const at = batch.size;
      const c = 6 * at;
      sent[c] = x;
      sent[c + 1] = y;
      sent[c + 2] = z;
      sent[c + 3] = u * tx + v * bx + w * nx;
      sent[c + 4] = u * ty + v * by + w * ny;
      sent[c + 5] = u * tz + v * bz + w * nz;
      owner[at] = i;
      batch.put(x, y, z, sent[c + 3], sent[c + 4], sent[c + 5], AHEAD_MM, reachMm);
      if (at === MOST - 1) this.follow(found);
    }
    this.out.counts.rays += occlusionRays;
  }

  /** Counts the rays that get away from the scene, and from the part alone where it is dark by itself. */
  private follow(found: Found): void {
    const { owner, open, sent, middle, alone, asked } = this;
    const batch = this.batch as RayBatch;
    const count = batch.size;
    // Kept apart: asking the part alone may move the memory that they lie in.
    const hits = this.met;
    if (alone) batch.clear();
    else hits.set(batch.run(true, true).subarray(0, count));
    for (let k = 0; k < count; k++) {
      if (!alone && hits[k] >= 0) continue;
      const i = owner[k];
      const own = asked[found.pairOf[i]];
      const c = 6 * k;
      if (own?.any(sent[c], sent[c + 1], sent[c + 2], sent[c + 3], sent[c + 4], sent[c + 5], AHEAD_MM, this.prepared.reachMm)) continue;
      open[i]++;
      if (middle.length > 0) for (let j = 0; j < 3; j++) middle[3 * i + j] += sent[c + 3 + j];
    }
  }

  /** The middle of the open directions, in the frame of the low mesh; where nothing is open, the surface’s own direction. */
  private bent(found: Found, i: number, texel: number): void {
    const pair: BakePair = this.prepared.pairs[found.pairOf[i]];
    // Transposed, it is the way back.
    const q = pair.lit.normalToScene;
    const { middle, frame, out } = this;
    const o = 3 * i;
    let [x, y, z] = [found.place[6 * i + 3], found.place[6 * i + 4], found.place[6 * i + 5]];
    if (middle[o] !== 0 || middle[o + 1] !== 0 || middle[o + 2] !== 0) {
      x = q[0] * middle[o] + q[1] * middle[o + 1] + q[2] * middle[o + 2];
      y = q[4] * middle[o] + q[5] * middle[o + 1] + q[6] * middle[o + 2];
      z = q[8] * middle[o] + q[9] * middle[o + 1] + q[10] * middle[o + 2];
    }
    const [w1, w2] = [found.weights[2 * i], found.weights[2 * i + 1]];
    frame.set(pair.low, found.triangleOf[i], 1 - w1 - w2, w1, w2);
    frame.into(x, y, z);
    out.bentNormal[3 * texel] = frame.x;
    out.bentNormal[3 * texel + 1] = frame.y;
    out.bentNormal[3 * texel + 2] = frame.z;
  }
}
