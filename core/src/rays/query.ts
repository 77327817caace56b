import { BATCH, HITS_AT, KEYS_AT, type Kernel, KINDS, ownMemory, RAYS_AT, type Seat, sharedSeat } from './kernel/host';
import { locate } from './locate';
import { type Kind, Reference } from './reference/trace';
import type { RayTree } from './tree';

/** Something met along a ray. */
export interface Hit {
  t: number;
  triangle: number;
}

const PLACE = new Float64Array(3);

/** Rays and hits of a batch where there is no kernel to hold them. */
interface Loose {
  rays: Float64Array;
  hits: Int32Array;
}

/**
 * Asks a tree: nearest hit, any hit, all hits, nearest point. One object per thread; the answer stands in its fields, so no ray
 * allocates. Positions in mm in the caller's space; directions need not be unit, `t` is in their lengths.
 *
 * The kernel says which triangle is met, by the watertight test (Woop, Benthin & Wald 2013) in float32: a ray through a shared edge hits
 * one of its two triangles. Distance and weights are worked out in double precision; equal distances go to the lower number.
 */
export class RayQuery {
  t = 0;
  /** The caller's triangle number, −1 for none. */
  triangle = -1;
  /** Barycentric weights of the second and third corner. */
  u = 0;
  v = 0;
  /** The packs, where the kernel reads them too: what it has just touched is near. */
  private packs: Float32Array;
  private ids: Int32Array;
  private readonly ox: number;
  private readonly oy: number;
  private readonly oz: number;
  private readonly reference: Reference | null;
  private readonly seat: Seat | null;
  private readonly kernel: Kernel | null;
  /** Where the tree lies for the kernel. */
  private nodesAt = 0;
  private packsAt = 0;
  private scratch = 0;
  private readonly own: ReturnType<typeof ownMemory>;
  private generation = 0;
  private loose: Loose | null = null;

  constructor(readonly tree: RayTree) {
    const { nodes, packs, memory, origin } = tree;
    [this.ox, this.oy, this.oz] = origin;
    this.packs = packs;
    this.ids = new Int32Array(packs.buffer, packs.byteOffset, packs.length);
    const shared = memory ? sharedSeat(memory) : null;
    this.own = shared ? null : ownMemory();
    this.seat = tree.triangles === 0 ? null : (shared ?? this.own?.seat ?? null);
    this.kernel = this.seat?.kernel ?? null;
    this.scratch = this.seat?.scratch ?? 0;
    this.reference = this.kernel || tree.triangles === 0 ? null : new Reference(nodes, packs);
    if (shared) {
      this.nodesAt = nodes.byteOffset;
      this.packsAt = packs.byteOffset;
    }
  }

  /** Nearest hit with tMin < t ≤ tMax. */
  closest(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, tMin: number, tMax: number): boolean {
    const hit = this.ask('closest', ox - this.ox, oy - this.oy, oz - this.oz, dx, dy, dz, tMin, tMax);
    if (hit < 0) {
      this.triangle = -1;
      return false;
    }
    this.read(hit);
    return true;
  }

  /** Whether anything lies between; one such triangle’s number is left behind, nothing else. */
  any(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, tMin: number, tMax: number): boolean {
    const hit = this.ask('any', ox - this.ox, oy - this.oy, oz - this.oz, dx, dy, dz, tMin, tMax);
    this.triangle = hit < 0 ? -1 : this.numberOf(hit);
    return hit >= 0;
  }

  /** Everything met with tMin < t ≤ tMax, nearest first, equal distances by number. */
  all(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, tMin: number, tMax: number): Hit[] {
    const [x, y, z] = [ox - this.ox, oy - this.oy, oz - this.oz];
    const hits: number[] = [];
    const n = this.ask('all', x, y, z, dx, dy, dz, tMin, tMax, hits);
    if (this.seat && n > 0 && n <= BATCH) hits.push(...this.seat.hits.subarray(0, n));
    // The kernel writes no more than a batch of them.
    else if (this.seat && n > BATCH) new Reference(this.tree.nodes, this.tree.packs).trace(x, y, z, dx, dy, dz, tMin, tMax, 'all', hits);
    return hits
      .map((hit) => {
        this.locate(hit, x, y, z, dx, dy, dz);
        return { t: this.t, triangle: this.triangle };
      })
      .sort((a, b) => a.t - b.t || a.triangle - b.triangle);
  }

  /** What the last question left behind. */
  private read(hit: number): void {
    const answer = this.seat ? this.seat.answer : (this.reference as Reference).answer;
    this.triangle = this.numberOf(hit);
    this.t = answer[0];
    this.u = answer[1];
    this.v = answer[2];
  }

  /** One ray about the tree’s own origin. @param hits takes all of them where there is no kernel */
  private ask(
    kind: Kind,
    x: number,
    y: number,
    z: number,
    dx: number,
    dy: number,
    dz: number,
    tMin: number,
    tMax: number,
    hits?: number[],
  ): number {
    if (this.kernel) {
      if (this.own && this.generation !== this.own.generation) this.settle();
      const { scratch } = this;
      return this.kernel.ask(this.nodesAt, this.packsAt, scratch, x, y, z, dx, dy, dz, tMin, tMax, KINDS[kind], scratch + HITS_AT, BATCH);
    }
    return this.reference ? this.reference.trace(x, y, z, dx, dy, dz, tMin, tMax, kind, hits) : -1;
  }

  /** Nearest point of the surface within `reach` mm, in double precision on float32 corners. Distance in `t`, weights in `u` and `v`. */
  nearest(wx: number, wy: number, wz: number, reach: number): boolean {
    const x = wx - this.ox;
    const y = wy - this.oy;
    const z = wz - this.oz;
    let hit = -1;
    if (this.kernel) {
      if (this.own && this.generation !== this.own.generation) this.settle();
      hit = this.kernel.nearest(this.nodesAt, this.packsAt, this.scratch, x, y, z, reach * reach);
    } else if (this.reference) hit = this.reference.nearest(x, y, z, reach * reach);
    if (hit < 0) {
      this.triangle = -1;
      return false;
    }
    this.read(hit);
    this.t = Math.sqrt(this.t);
    return true;
  }

  /** Room for the rays of a batch; see {@link RayBatch}. */
  get rays(): Float64Array {
    if (this.seat) return this.seat.rays;
    this.loose ??= { rays: new Float64Array(8 * BATCH), hits: new Int32Array(BATCH) };
    return this.loose.rays;
  }

  /** Follows the first rays of a batch; see {@link RayBatch}. */
  follow(count: number, any: boolean, sorted: boolean): Int32Array {
    if (this.kernel) {
      if (this.own && this.generation !== this.own.generation) this.settle();
      const seat = this.seat as Seat;
      const { scratch } = this;
      const keys = sorted ? 0 : scratch + KEYS_AT;
      this.kernel.batch(
        this.nodesAt,
        this.packsAt,
        scratch,
        scratch + RAYS_AT,
        count,
        scratch + HITS_AT,
        any ? KINDS.any : KINDS.closest,
        keys,
      );
      return seat.hits;
    }
    const r = this.rays;
    const { hits } = this.loose as Loose;
    for (let i = 0, o = 0; i < count; i++, o += 8)
      hits[i] =
        this.reference?.trace(r[o], r[o + 1], r[o + 2], r[o + 3], r[o + 4], r[o + 5], r[o + 6], r[o + 7], any ? 'any' : 'closest') ?? -1;
    return hits;
  }

  /** The caller’s number of a triangle that a batch has met. */
  numberOf(hit: number): number {
    return this.ids[40 * (hit >> 2) + 36 + (hit & 3)];
  }

  private settle(): void {
    const own = this.own as NonNullable<typeof this.own>;
    const { nodes, packs } = own.of(this.tree);
    const { buffer } = own.seat.memory;
    this.nodesAt = nodes;
    this.packsAt = packs;
    this.packs = new Float32Array(buffer, packs, this.tree.packs.length);
    this.ids = new Int32Array(buffer, packs, this.tree.packs.length);
    this.generation = own.generation;
  }

  /** Distance, triangle and weights of what a batch has met, into this object’s fields; the ray as it was put. */
  meet(hit: number, ox: number, oy: number, oz: number, dx: number, dy: number, dz: number): void {
    this.locate(hit, ox - this.ox, oy - this.oy, oz - this.oz, dx, dy, dz);
  }

  private locate(hit: number, x: number, y: number, z: number, dx: number, dy: number, dz: number): void {
    const c = 40 * (hit >> 2) + (hit & 3);
    locate(this.packs, c, x, y, z, dx, dy, dz, PLACE);
    this.triangle = this.ids[c + 36];
    this.t = PLACE[0];
    this.u = PLACE[1];
    this.v = PLACE[2];
  }
}
