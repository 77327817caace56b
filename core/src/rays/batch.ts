import { BATCH } from './kernel/host';
import type { RayQuery } from './query';

/** Rays of a batch at most. */
export const MOST = BATCH;

/**
 * Many rays at one tree, in the kernel's own memory: put in, followed together in an order that suits the tree, and read. A thread has
 * room for one batch at a time, so between the first {@link put} and the last answer no other is filled.
 */
export class RayBatch {
  private count = 0;

  constructor(private readonly query: RayQuery) {}

  get size(): number {
    return this.count;
  }

  /** Adds a ray; at most {@link MOST}. mm; directions need not be unit. */
  put(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, tMin: number, tMax: number): void {
    const { origin } = this.query.tree;
    const rays = this.query.rays;
    const o = 8 * this.count++;
    rays[o] = ox - origin[0];
    rays[o + 1] = oy - origin[1];
    rays[o + 2] = oz - origin[2];
    rays[o + 3] = dx;
    rays[o + 4] = dy;
    rays[o + 5] = dz;
    rays[o + 6] = tMin;
    rays[o + 7] = tMax;
  }

  /** Leaves them where they are. */
  clear(): void {
    this.count = 0;
  }

  /**
   * Follows them all and empties the batch.
   *
   * @param any whether something is met is all that is asked
   * @param sorted they lie in a good order already
   * @returns a number each: negative where nothing was met; otherwise for {@link RayQuery.meet}. It lasts until the next batch.
   */
  run(any: boolean, sorted = false): Int32Array {
    const { query, count } = this;
    this.count = 0;
    return query.follow(count, any, sorted);
  }
}
