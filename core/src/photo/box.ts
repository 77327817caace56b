import { InputError } from '../errors';
import { add, scale, type Vec3 } from '../maths/vec3';
import { leastSquares } from './least';
import { type Bundle, type Matched, type MatchOptions, type Placed, type Px, seenAt, towards, turned } from './match';

/** A corner of the box, each coordinate at its near (0) or far (1) end, and where it appears. */
export interface SeenCorner {
  corner: readonly [0 | 1, 0 | 1, 0 | 1];
  at: Px;
}

/** A box stood in a photograph, and how sure its sizes are. */
export interface SolvedBox {
  matched: Matched;
  placed: Placed;
  /** mm, along x, y and z. */
  sizeMm: [number, number, number];
  /** Standard deviations, mm; 0 for the one that was known. */
  offMm: [number, number, number];
  /** How far each corner appears from where it was put, px. */
  residuals: number[];
  rmsPx: number;
}

/** Where a corner of a box of a size stands in the camera. */
export const cornerOf = (axes: readonly [Vec3, Vec3, Vec3], origin: Vec3, size: readonly number[], corner: readonly number[]): Vec3 =>
  [0, 1, 2].reduce<Vec3>((p, k) => add(p, scale(axes[k], corner[k] * size[k])), origin);

/**
 * Camera and box at once: focal length, turn, place and the two sizes that aren’t known, by least squares of where its corners appear. What
 * the edges of the bundles say goes on counting.
 *
 * @param start from {@link matchCamera} and {@link place} @param known the size that is known, along an axis
 * @throws InputError where there are too few corners to say it
 */
export function solveBox(
  start: { matched: Matched; placed: Placed; sizeMm: readonly [number, number, number] },
  corners: readonly SeenCorner[],
  known: { axis: 0 | 1 | 2; mm: number },
  bundles: readonly Bundle[],
  size: Pick<MatchOptions, 'width' | 'height'>,
): SolvedBox {
  for (const axis of [0, 1, 2] as const)
    if (new Set(corners.map((c) => c.corner[axis])).size < 2)
      throw new InputError('photo/corners', `No two corners differ along ${['x', 'y', 'z'][axis]}: nothing says how long it is there.`);
  const free = ([0, 1, 2] as const).filter((k) => k !== known.axis);
  const { matched: m, placed } = start;
  const far = placed.origin[2];
  const read = (p: readonly number[]) => {
    const turn: Vec3 = [p[0], p[1], p[2]];
    const axes = m.axes.map((a) => turned(a, turn)) as unknown as [Vec3, Vec3, Vec3];
    const focalPx = m.focalPx * Math.exp(p[3]);
    const origin = placed.origin.map((x, k) => x + far * p[4 + k]) as unknown as Vec3;
    const sizeMm = [0, 0, 0] as [number, number, number];
    sizeMm[known.axis] = known.mm;
    for (const [i, k] of free.entries()) sizeMm[k] = start.sizeMm[k] * Math.exp(p[7 + i]);
    return { axes, focalPx, origin, sizeMm };
  };
  const straight = (at: Px): Px => {
    const [x, y] = towards(m, at, size);
    return [m.middle[0] + m.focalPx * x, m.middle[1] + m.focalPx * y];
  };
  const seen = corners.map((c) => straight(c.at));
  const cornersOff = (p: readonly number[]): number[] => {
    const { axes, focalPx, origin, sizeMm } = read(p);
    return corners.flatMap(({ corner }, i) => {
      const at = seenAt({ focalPx, middle: m.middle }, cornerOf(axes, origin, sizeMm, corner));
      return at ? [at[0] - seen[i][0], at[1] - seen[i][1]] : [1e6, 1e6];
    });
  };
  const edgesOff = (p: readonly number[]): number[] => {
    const { axes, focalPx } = read(p);
    return bundles.flatMap(({ axis, edges }) =>
      edges.flatMap(({ points }) => {
        const own = points.map(straight);
        const [mx, my] = [0, 1].map((k) => own.reduce((s, q) => s + q[k] - m.middle[k], 0) / own.length);
        const d = axes[axis];
        // The line from the edge’s middle towards its bundle’s point.
        const [lx, ly, lz] = [my * d[2] - focalPx * d[1], focalPx * d[0] - mx * d[2], mx * focalPx * d[1] - my * focalPx * d[0]];
        const l = Math.hypot(lx, ly) || 1e-12;
        return own.map(([x, y]) => (lx * (x - m.middle[0]) + ly * (y - m.middle[1]) + lz) / l);
      }),
    );
  };
  const edges = bundles.reduce((n, b) => n + b.edges.length, 0);
  const fit = leastSquares(new Array<number>(9).fill(0), (p) => [...cornersOff(p), ...edgesOff(p)], edges);
  const made = read(fit.parameters);
  const off = cornersOff(fit.parameters);
  const offMm = [0, 0, 0] as [number, number, number];
  for (const [i, k] of free.entries()) offMm[k] = made.sizeMm[k] * fit.deviations[7 + i];
  return {
    matched: { ...m, axes: made.axes, focalPx: made.focalPx, focalShare: fit.deviations[3] },
    placed: {
      origin: made.origin,
      position: [0, 1, 2].map((k) => -made.axes[k].reduce((s, x, i) => s + x * made.origin[i], 0)) as unknown as Vec3,
    },
    sizeMm: made.sizeMm,
    offMm,
    residuals: corners.map((_, i) => Math.hypot(off[2 * i], off[2 * i + 1])),
    rmsPx: fit.rms,
  };
}
