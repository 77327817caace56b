/**
 * For every texel, the known one it takes its value from: itself where it is known, else one a ring nearer to the islands.
 * Worked out once for a layout and used for every map of a set. −1 where nothing is known at all.
 *
 * @param known not 0 where a value stands
 */
export function nearestKnown(known: ArrayLike<number>, size: number): Int32Array {
  const from = new Int32Array(size * size).fill(-1);
  const queue = new Int32Array(size * size);
  let end = 0;
  for (let i = 0; i < from.length; i++)
    if (known[i]) {
      from[i] = i;
      const x = i % size;
      const rim =
        (x > 0 && !known[i - 1]) ||
        (x < size - 1 && !known[i + 1]) ||
        (i >= size && !known[i - size]) ||
        (i < size * (size - 1) && !known[i + size]);
      if (rim) queue[end++] = i;
    }
  // Ring by ring: the queue is in order of distance.
  for (let at = 0; at < end; at++) {
    const i = queue[at];
    const x = i % size;
    const source = from[i];
    if (x > 0 && from[i - 1] < 0) {
      from[i - 1] = source;
      queue[end++] = i - 1;
    }
    if (x < size - 1 && from[i + 1] < 0) {
      from[i + 1] = source;
      queue[end++] = i + 1;
    }
    if (i >= size && from[i - size] < 0) {
      from[i - size] = source;
      queue[end++] = i - size;
    }
    if (i < size * (size - 1) && from[i + size] < 0) {
      from[i + size] = source;
      queue[end++] = i + size;
    }
  }
  return from;
}

/** The same picture with every unknown texel taken from its known one. */
export function spread(data: Uint8Array, channels: number, from: Int32Array): Uint8Array {
  const out = new Uint8Array(data.length);
  for (let i = 0; i < from.length; i++) {
    const source = from[i] < 0 ? i : from[i];
    for (let k = 0; k < channels; k++) out[channels * i + k] = data[channels * source + k];
  }
  return out;
}
