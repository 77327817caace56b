/** Texels a side of the sharpest level of the studio's cube; the next have half as many each. */
export const SIDE = 32;
export const LEVELS = 4;

/** The picture of the studio all round: columns and rows, and how many directions it is asked in for each. */
const [COLUMNS, ROWS, FINER] = [64, 32, 4];

/** How bright it is, from the lowest row: paper below, light above, a window to the left and two narrow ones behind. */
function brightness(column: number, row: number): number {
  const up = (2 * (row + 0.5)) / ROWS - 1;
  if (column > 56 && column < 60 && up > 0 && up < 0.8) return 4.5;
  if (column > 34 && column < 46 && up > -0.05 && up < 0.5) return 1.5;
  if (column > 8 && column < 17 && up > 0.1 && up < 0.72) return 5.5;
  return up > 0 ? 0.55 + 0.35 * up : 0.42 + 0.1 * up;
}

/** What lies in a direction of that picture, between its texels. `u` goes once round, `v` from straight down to straight up, 0…1 both. */
function seen(u: number, v: number): number {
  const [x, y] = [u * COLUMNS - 0.5, Math.min(ROWS - 1, Math.max(0, v * ROWS - 0.5))];
  const [i, j] = [Math.floor(x), Math.min(ROWS - 2, Math.floor(y))];
  const at = (di: number, dj: number) => brightness((i + di + COLUMNS) % COLUMNS, j + dj);
  const [a, b] = [x - i, y - j];
  return (1 - b) * ((1 - a) * at(0, 0) + a * at(1, 0)) + b * ((1 - a) * at(0, 1) + a * at(1, 1));
}

/** The direction in the world that a texel of a cube's face shows, as OpenGL ES 3.0 lays its faces out, §3.8.10, seen from within. */
export function directionOf(face: number, i: number, j: number, side: number): [number, number, number] {
  const [u, v] = [(2 * (i + 0.5)) / side - 1, (2 * (j + 0.5)) / side - 1];
  const [x, y, z] = [
    [1, -v, -u],
    [-1, -v, u],
    [u, 1, v],
    [u, -1, -v],
    [u, -v, 1],
    [-u, -v, -1],
  ][face];
  const l = Math.hypot(x, y, z);
  return [-x / l, y / l, z / l];
}

/** The roughness a level is blurred for; the drawing library looks it up by the inverse. */
export const roughnessOf = (level: number): number => 1 - Math.sqrt(1 - level / (LEVELS - 1));

/**
 * The studio as rough surfaces mirror it, brightness by level, face, row and column: each texel weighs what is all round by the GGX lobe seen
 * along its normal (B. Karis, course on physically based shading, SIGGRAPH 2013: the first of two sums).
 *
 * @param sky what is seen in a direction of the picture, in place of the studio
 */
export function studioLevels(sky: (u: number, v: number) => number = seen): Float32Array[] {
  const [w, h] = [COLUMNS * FINER, ROWS * FINER];
  const all = new Float64Array(5 * w * h);
  for (let y = 0, o = 0; y < h; y++)
    for (let x = 0; x < w; x++, o += 5) {
      const [u, v] = [(x + 0.5) / w, (y + 0.5) / h];
      const [around, up] = [2 * Math.PI * (u - 0.5), Math.PI * (v - 0.5)];
      all.set([Math.cos(up) * Math.cos(around), Math.sin(up), Math.cos(up) * Math.sin(around), sky(u, v), Math.cos(up)], o);
    }
  return Array.from({ length: LEVELS }, (_, level) => {
    const side = SIDE >> level;
    const a2 = roughnessOf(level) ** 4;
    return Float32Array.from({ length: 6 * side * side }, (_, k) => {
      const n = directionOf(Math.floor(k / (side * side)), k % side, Math.floor(k / side) % side, side);
      if (a2 === 0) return sky((Math.atan2(n[2], n[0]) / (2 * Math.PI) + 1.5) % 1, Math.asin(n[1]) / Math.PI + 0.5);
      let [sum, weights] = [0, 0];
      for (let o = 0; o < all.length; o += 5) {
        const cos = n[0] * all[o] + n[1] * all[o + 1] + n[2] * all[o + 2];
        if (cos <= 0) continue;
        // Half way between normal and light, cos² = (1 + cos) / 2.
        const d = ((1 + cos) / 2) * (a2 - 1) + 1;
        const weight = (cos * all[o + 4]) / (d * d);
        sum += weight * all[o + 3];
        weights += weight;
      }
      return sum / weights;
    });
  });
}
