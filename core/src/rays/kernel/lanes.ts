/** How many threads can share a memory: the one that builds and 64 others. */
export const LANES = 65;

let lane = 0;

/**
 * Which lane of a shared memory this thread works in: where its stack and its batches lie. Given by whoever starts the thread: two threads
 * that chose for themselves would choose the same and write over each other without a sign.
 */
export function takeLane(n: number): void {
  if (!Number.isInteger(n) || n < 0 || n >= LANES) throw new RangeError(`A shared memory has ${LANES} lanes; ${n} is none of them.`);
  lane = n;
}

/** The lane this thread was given; 0 for the one that was given none. */
export const laneOfThread = (): number => lane;
