/**
 * Exact unrolling of rows of facets. A band between two rings of a turned piece is a belt of flat trapezoids; laid side by
 * side they form a strip (cylinder), a sector (cone) or a ring (disc) with no stretch at all. The smooth cone would be
 * 0.4 % off at 12 sides, so chords are used, never arcs.
 */

/** A belt of bands laid out together. Ring j of the belt, column i stands at `at(j, i)`, mm. */
export interface Belt {
  at(ring: number, column: number): [number, number];
  /** Largest ratio, either way, between a laid chord and the true one. 1 when exact. */
  stretch: number;
}

/**
 * Lays bands that follow each other as one strip or sector, exact when all of them belong to one cylinder, cone or disc.
 *
 * @param chords length of one side of each ring, mm; 0 at a pole
 * @param slants length along the surface from each ring to the next, mm
 * @param sides facets round
 */
export function layBelt(chords: readonly number[], slants: readonly number[], sides: number): Belt {
  const rings = chords.length;
  const total = slants.reduce((a, b) => a + b, 0);
  const heights = [0];
  for (const s of slants) heights.push(heights[heights.length - 1] + s);
  const grow = total > 0 ? (chords[rings - 1] - chords[0]) / total : 0;
  const half = Math.asin(Math.min(1, Math.abs(grow) / 2));
  // Below a ten-thousandth of a turn in all the sector is a strip to well under the last texel.
  if (sides * half < 1e-4) {
    const mean = chords.reduce((a, b) => a + b, 0) / rings;
    return { at: (j, i) => [i * mean, heights[j]], stretch: worst(chords.map((c) => [mean, c])) };
  }
  const up = grow > 0 ? 1 : -1;
  const k = 2 * Math.sin(half);
  let base: number;
  if (chords[0] === 0) base = 0;
  else if (chords[rings - 1] === 0) base = total;
  else base = chords.reduce((s, c, j) => s + c / k - up * heights[j], 0) / rings;
  const radius = heights.map((h) => Math.max(0, base + up * h));
  return {
    at: (j, i) => {
      const angle = (2 * i - sides) * half;
      return [radius[j] * Math.sin(angle), up * radius[j] * Math.cos(angle)];
    },
    stretch: worst(chords.map((c, j) => [radius[j] * k, c])),
  };
}

/**
 * Columns at which a belt is cut so that its pieces pack well: a wide sector or ring is mostly hole, so it is cut into the
 * fewest equal pieces that fill half of their boxes. Strips and whole discs stay in one.
 * @returns first column of each piece, and `sides` at the end
 */
export function cutsOf(belt: Belt, rings: number, sides: number): number[] {
  let best = { pieces: 1, fill: 0 };
  for (const pieces of [1, 2, 3, 4, 6]) {
    if (pieces > sides / 3) break;
    const fill = fillOf(belt, rings, 0, Math.ceil(sides / pieces));
    if (fill > best.fill * 1.15) best = { pieces, fill };
    if (best.fill >= 0.5) break;
  }
  return Array.from({ length: best.pieces + 1 }, (_, i) => Math.round((i * sides) / best.pieces));
}

/** Share of its smallest upright-in-the-middle box that a run of columns fills. */
function fillOf(belt: Belt, rings: number, from: number, to: number): number {
  // Turned so that the run's own middle points up, which is the box the packer finds.
  const [a, b] = [belt.at(rings - 1, from), belt.at(rings - 1, to)];
  const angle = to - from > 1 ? -Math.atan2(b[1] - a[1], b[0] - a[0]) : 0;
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  let area = 0;
  for (let j = 0; j < rings; j++)
    for (let i = from; i <= to; i++) {
      const [x, y] = belt.at(j, i);
      const [u, v] = [c * x - s * y, s * x + c * y];
      [x0, x1, y0, y1] = [Math.min(x0, u), Math.max(x1, u), Math.min(y0, v), Math.max(y1, v)];
      if (j > 0 && i > from) {
        const q = [belt.at(j - 1, i - 1), belt.at(j - 1, i), [x, y] as const, belt.at(j, i - 1)];
        for (let k = 0; k < 4; k++) area += (q[k][0] * q[(k + 1) % 4][1] - q[(k + 1) % 4][0] * q[k][1]) / 2;
      }
    }
  return Math.abs(area) / Math.max((x1 - x0) * (y1 - y0), 1e-12);
}

function worst(pairs: [number, number][]): number {
  let out = 1;
  for (const [laid, real] of pairs) if (real > 0) out = Math.max(out, laid > 0 ? Math.max(laid / real, real / laid) : Infinity);
  return out;
}

/**
 * Groups bands into belts: as many as follow each other without a break and with no chord laid more than `limit` off.
 * @param breakBefore whether ring j must start a new belt (a hard edge)
 * @returns first and last ring of each belt
 */
export function groupBands(
  chords: readonly number[],
  slants: readonly number[],
  sides: number,
  breakBefore: (ring: number) => boolean,
  limit: number,
): [number, number][] {
  const out: [number, number][] = [];
  let from = 0;
  for (let to = 1; to < chords.length; to++) {
    const last = to === chords.length - 1;
    const fits = !last && !breakBefore(to) && layBelt(chords.slice(from, to + 2), slants.slice(from, to + 1), sides).stretch <= limit;
    if (fits) continue;
    out.push([from, to]);
    from = to;
  }
  return out;
}

type P3 = readonly [number, number, number];
const far = (a: P3, b: P3) => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);

/**
 * Unrolls a chain of quads (lower[i], lower[i+1], upper[i+1], upper[i]) triangle by triangle: every triangle keeps its
 * sides, so planar quads stay exactly themselves.
 * @returns lower and upper points laid in the plane, mm
 */
export function unrollChain(lower: readonly P3[], upper: readonly P3[]): { lower: [number, number][]; upper: [number, number][] } {
  const low: [number, number][] = [[0, 0]];
  const up: [number, number][] = [[0, far(lower[0], upper[0])]];
  for (let i = 0; i + 1 < lower.length; i++) {
    low.push(third(up[i], low[i], far(upper[i], lower[i + 1]), far(lower[i], lower[i + 1])));
    up.push(third(up[i], low[i + 1], far(upper[i], upper[i + 1]), far(lower[i + 1], upper[i + 1])));
  }
  return { lower: low, upper: up };
}

/** The point at given distances from a and b, to the left of the way from a to b. */
function third(a: [number, number], b: [number, number], fromA: number, fromB: number): [number, number] {
  const d = Math.hypot(b[0] - a[0], b[1] - a[1]);
  if (d < 1e-12) return [a[0] + fromA, a[1]];
  const x = (fromA * fromA - fromB * fromB + d * d) / (2 * d);
  const h = Math.sqrt(Math.max(0, fromA * fromA - x * x));
  const [ux, uy] = [(b[0] - a[0]) / d, (b[1] - a[1]) / d];
  return [a[0] + ux * x - uy * h, a[1] + uy * x + ux * h];
}
