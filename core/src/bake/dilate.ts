/**
 * Carries the values of covered texels outward over the rest of the tile, a ring at a time, each new texel the mean of its
 * known neighbours: past the padding, so that no level of the texture ever mixes in the background.
 *
 * @param channels values per texel; changed in place
 * @param known 1 where a value stands
 */
export function dilate(values: Float32Array, channels: number, known: Uint8Array, size: number): void {
  const have = known.slice();
  const at = (i: number, dx: number, dy: number): number => {
    const x = (i % size) + dx;
    const y = ((i / size) | 0) + dy;
    return x < 0 || y < 0 || x >= size || y >= size ? -1 : y * size + x;
  };
  const NEIGHBOURS = [
    [-1, 0],
    [1, 0],
    [0, -1],
    [0, 1],
    [-1, -1],
    [1, -1],
    [-1, 1],
    [1, 1],
  ];
  let front: number[] = [];
  const queued = new Uint8Array(have.length);
  const look = (i: number, list: number[]) => {
    for (const [dx, dy] of NEIGHBOURS) {
      const j = at(i, dx, dy);
      if (j >= 0 && !have[j] && !queued[j]) {
        queued[j] = 1;
        list.push(j);
      }
    }
  };
  for (let i = 0; i < have.length; i++) if (have[i]) look(i, front);
  while (front.length > 0) {
    for (const i of front) {
      let n = 0;
      for (let k = 0; k < channels; k++) values[channels * i + k] = 0;
      for (const [dx, dy] of NEIGHBOURS) {
        const j = at(i, dx, dy);
        if (j < 0 || have[j] !== 1) continue;
        n++;
        for (let k = 0; k < channels; k++) values[channels * i + k] += values[channels * j + k];
      }
      for (let k = 0; k < channels; k++) values[channels * i + k] /= Math.max(1, n);
    }
    for (const i of front) have[i] = 1;
    const next: number[] = [];
    for (const i of front) look(i, next);
    front = next;
  }
}
