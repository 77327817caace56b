/** In which order unknown texels are reached from known ones, ring by ring. */
export interface Rings {
  size: number;
  /** Unknown texels in the order they are reached. */
  order: Uint32Array;
  /** Of every texel: 0 where it is known, then the ring it lies in; {@link NEVER} where nothing is known at all. */
  ring: Uint16Array;
  /** Those that stay empty all the same. */
  blank?: Uint32Array;
}

const NEVER = 65535;
/** Neighbours in the order their values are added up. */
const DX = [-1, 1, 0, 0, -1, 1, -1, 1];
const DY = [0, 0, -1, 1, -1, -1, 1, 1];

/** Worked out once for a layout and used for every map of it. @param known not 0 where a value stands */
export function ringsOf(known: ArrayLike<number>, size: number): Rings {
  const ring = new Uint16Array(size * size).fill(NEVER);
  let stands = 0;
  for (let i = 0; i < ring.length; i++) if (known[i]) stands++;
  const order = new Uint32Array(ring.length - stands);
  let end = 0;
  const look = (i: number, r: number) => {
    const x = i % size;
    const y = (i / size) | 0;
    for (let k = 0; k < 8; k++) {
      const [nx, ny] = [x + DX[k], y + DY[k]];
      if (nx < 0 || ny < 0 || nx >= size || ny >= size) continue;
      const j = ny * size + nx;
      if (ring[j] !== NEVER) continue;
      ring[j] = r;
      order[end++] = j;
    }
  };
  for (let i = 0; i < ring.length; i++) if (known[i]) ring[i] = 0;
  for (let i = 0; i < ring.length; i++) {
    if (ring[i] !== 0) continue;
    const x = i % size;
    // Inside an island there is nothing to look for.
    const inner = x > 0 && x < size - 1 && i >= size && i < size * (size - 1);
    if (inner && known[i - 1] && known[i + 1] && known[i - size] && known[i + size]) {
      if (known[i - size - 1] && known[i - size + 1] && known[i + size - 1] && known[i + size + 1]) continue;
    }
    look(i, 1);
  }
  for (let at = 0; at < end; at++) look(order[at], Math.min(NEVER - 1, ring[order[at]] + 1));
  // Where nothing is known, nothing is reached.
  return { size, order: order.subarray(0, end), ring };
}

/**
 * Carries the values of known texels outward over the rest of the tile, a ring at a time, each new texel the mean of its
 * known neighbours: past the padding, so that no level of the texture ever mixes in the background.
 *
 * @param channels values per texel; changed in place
 * @param empty what stands where nothing is carried
 */
export function dilate(values: Float32Array, channels: number, { size, order, ring, blank }: Rings, empty = 0): void {
  for (const i of order) {
    const x = i % size;
    const y = (i / size) | 0;
    const r = ring[i];
    let n = 0;
    for (let c = 0; c < channels; c++) values[channels * i + c] = 0;
    for (let k = 0; k < 8; k++) {
      const nx = x + DX[k];
      const ny = y + DY[k];
      if (nx < 0 || ny < 0 || nx >= size || ny >= size) continue;
      const j = ny * size + nx;
      if (ring[j] >= r) continue;
      n++;
      for (let c = 0; c < channels; c++) values[channels * i + c] += values[channels * j + c];
    }
    for (let c = 0; c < channels; c++) values[channels * i + c] /= Math.max(1, n);
  }
  if (blank) for (const i of blank) values.fill(empty, channels * i, channels * (i + 1));
}

/** The rings of what a bake has found. @param within how far values are carried beyond the islands, texels; 0: over all of the tile */
export function ringsFound(state: Uint8Array, size: number, within = 0): Rings {
  const rings = ringsOf(
    state.map((s) => (s === 1 ? 1 : 0)),
    size,
  );
  // What was missed inside an island is filled from round it, however far that is.
  return within > 0 ? { ...rings, blank: rings.order.filter((i) => rings.ring[i] > within && state[i] === 0) } : rings;
}
