import { InputError } from '../errors';
import { add, cross, dot, scale, type Vec3 } from '../maths/vec3';
import { figure } from '../units/lengths';
import { leastSquares } from './least';
import { AXES, type Bundle, type Matched, type MatchOptions, matchCamera, offDirection, type Px, seenAt, towards, turned } from './match';
import type { Corner, PhotoPin } from './photo';

/** A box stood in a photograph, the camera that sees it so, and how sure both are. */
export interface StoodBox {
  matched: Matched;
  /** Where its near corner (0, 0, 0) stands in the camera, and how sure that is: right, down, forward, mm. */
  at: Vec3;
  atOffMm: Vec3;
  /** mm, along x, y and z; 0 for a size that nothing says and nobody asked for. */
  sizeMm: [number, number, number];
  /** Standard deviations, mm; 0 for sizes that were known. */
  offMm: [number, number, number];
  /** How far each corner appears from where it was put, px. */
  residuals: number[];
  rmsPx: number;
}

/** Where a corner of a box of a size stands in the camera. */
export const cornerOf = (axes: readonly [Vec3, Vec3, Vec3], origin: Vec3, size: readonly number[], corner: readonly number[]): Vec3 =>
  [0, 1, 2].reduce<Vec3>((p, k) => add(p, scale(axes[k], corner[k] * size[k])), origin);

/** Edges that follow from corners: of any two that differ along one axis alone. */
function edgesBetween(corners: readonly PhotoPin[]): Bundle[] {
  return ([0, 1, 2] as const).map((axis) => ({
    axis,
    edges: corners.flatMap((a) =>
      corners
        .filter((b) => a.corner[axis] < b.corner[axis] && [0, 1, 2].every((k) => k === axis || a.corner[k] === b.corner[k]))
        .map((b) => ({ points: [a.at, b.at] })),
    ),
  }));
}

/** What is drawn where that is enough for a lens; else with what follows from corners, where a single edge that nobody drew says nothing. */
export function bundlesWith(drawn: readonly Bundle[], corners: readonly PhotoPin[]): Bundle[] {
  if (drawn.filter((b) => b.edges.length > 1).length > 1) return [...drawn];
  return edgesBetween(corners).flatMap(({ axis, edges }) => {
    const own = drawn.filter((b) => b.axis === axis).flatMap((b) => b.edges);
    const all = [...own, ...edges];
    return own.length > 0 || all.length > 1 ? [{ axis, edges: all }] : [];
  });
}

/**
 * Camera and box at once: focal length, turn, place and the sizes that aren’t known, by least squares of where its corners appear and of
 * the edges that were drawn. Where it stands to begin with follows from lines through its corners, which are linear in it.
 *
 * @param sizes of the box, mm, null for those that are looked for; one has to be known
 * @throws InputError where there is too little to say it
 */
export function standBox(
  drawn: readonly Bundle[],
  corners: readonly PhotoPin[],
  sizes: readonly (number | null)[],
  options: MatchOptions,
): StoodBox {
  const differ = ([0, 1, 2] as const).filter((k) => new Set(corners.map((c) => c.corner[k])).size > 1);
  if (differ.length === 0) throw new InputError('photo/corners', 'It takes two corners of the box to say where it stands.');
  if (!differ.some((k) => sizes[k] !== null))
    throw new InputError(
      'photo/scale',
      `No corners differ along ${listed([0, 1, 2].filter((k) => sizes[k] !== null))}, where the size is known: nothing says how large it is.`,
    );
  const matched = matchCamera(bundlesWith(drawn, corners), options);
  // What is drawn does not tell front from back: x to the right may as well be x to the left, and z then goes away.
  const ways = [matched.axes, [scale(matched.axes[0], -1), matched.axes[1], scale(matched.axes[2], -1)] as const];
  const stood = ways.flatMap((axes) => {
    const start = linearly({ ...matched, axes }, corners, sizes, differ, options);
    return start ? [refined({ ...matched, axes }, start, drawn, corners, sizes, options)] : [];
  });
  const best = stood.sort((a, b) => a.rmsPx - b.rmsPx)[0];
  if (!best)
    throw new InputError(
      'photo/place',
      'No box stands so that its corners appear where they were put; look whether each is the corner it is said to be.',
    );
  const miss = Math.max(...best.residuals);
  if (miss > MOST_OFF * Math.hypot(options.width, options.height))
    throw new InputError(
      'photo/place',
      `The nearest box misses a corner by ${figure(miss, 0)} px; look whether each is the corner it is said to be.`,
    );
  return best;
}

/** A corner farther off than this share of the diagonal is another one. */
const MOST_OFF = 0.1;
const listed = (axes: readonly number[]): string => axes.map((k) => AXES[k]).join(' and ');

interface Start {
  at: Vec3;
  size: [number, number, number];
}

/** (at + Σ cₖ sₖ aₖ) lies along the ray of each corner: linear in the place and the sizes. Null where that puts it behind the camera or turns it inside out. */
function linearly(
  m: Matched,
  corners: readonly PhotoPin[],
  sizes: readonly (number | null)[],
  differ: readonly number[],
  options: MatchOptions,
): Start | null {
  const free = differ.filter((k) => sizes[k] === null);
  const rays = corners.map((c) => towards(m, c.at, options));
  const known = Math.max(...sizes.map((s) => s ?? 0));
  const read = (p: readonly number[]): Start => {
    const size = sizes.map((s) => s ?? 0) as [number, number, number];
    for (const [i, k] of free.entries()) size[k] = known * p[3 + i];
    return { at: [known * p[0], known * p[1], known * p[2]], size };
  };
  const fit = leastSquares([0, 0, 1, ...free.map(() => 1)], (p) => {
    const { at, size } = read(p);
    return corners.flatMap((c, i) => cross(cornerOf(m.axes, at, size, c.corner), rays[i]).map((x) => x / known));
  });
  const made = read(fit.parameters);
  const ahead = corners.every((c) => cornerOf(m.axes, made.at, made.size, c.corner)[2] > 0);
  return ahead && made.size.every((s) => s >= 0) && free.every((k) => made.size[k] > 0) ? made : null;
}

function refined(
  m: Matched,
  start: Start,
  drawn: readonly Bundle[],
  corners: readonly PhotoPin[],
  sizes: readonly (number | null)[],
  options: MatchOptions,
): StoodBox {
  const free = [0, 1, 2].filter((k) => sizes[k] === null && start.size[k] > 0);
  const far = start.at[2];
  const lens = options.focalPx === undefined ? 1 : 0;
  const read = (p: readonly number[]) => {
    const turn: Vec3 = [p[0], p[1], p[2]];
    const axes = m.axes.map((a) => turned(a, turn)) as unknown as [Vec3, Vec3, Vec3];
    const at = start.at.map((x, k) => x + far * p[3 + k]) as unknown as Vec3;
    const focalPx = lens === 1 ? m.focalPx * Math.exp(p[6]) : m.focalPx;
    const size = [...start.size] as [number, number, number];
    for (const [i, k] of free.entries()) size[k] = start.size[k] * Math.exp(p[6 + lens + i]);
    return { axes, focalPx, at, size };
  };
  const straight = (at: Px): Px => {
    const [x, y] = towards(m, at, options);
    return [m.focalPx * x, m.focalPx * y];
  };
  const seen = corners.map((c) => straight(c.at));
  const cornersOff = (p: readonly number[]): number[] => {
    const { axes, focalPx, at, size } = read(p);
    return corners.flatMap(({ corner }, i) => {
      const q = seenAt({ focalPx, middle: [0, 0] }, cornerOf(axes, at, size, corner));
      return q ? [q[0] - seen[i][0], q[1] - seen[i][1]] : [1e6, 1e6];
    });
  };
  const edgesOff = (p: readonly number[]): number[] => {
    const { axes, focalPx } = read(p);
    return drawn.flatMap(({ axis, edges }) => edges.flatMap((e) => offDirection(e.points.map(straight), axes[axis], focalPx)));
  };
  const edges = drawn.reduce((n, b) => n + b.edges.length, 0);
  const fit = leastSquares(new Array<number>(6 + lens + free.length).fill(0), (p) => [...cornersOff(p), ...edgesOff(p)], edges);
  const made = read(fit.parameters);
  const off = cornersOff(fit.parameters);
  const offMm = [0, 0, 0] as [number, number, number];
  for (const [i, k] of free.entries()) offMm[k] = made.size[k] * fit.deviations[6 + lens + i];
  const [, , , a, b, c] = fit.deviations;
  return {
    matched: {
      ...m,
      axes: made.axes,
      focalPx: made.focalPx,
      focalShare: lens === 1 ? fit.deviations[6] : 0,
      degrees: (Math.hypot(...fit.deviations.slice(0, 3)) * 180) / Math.PI,
    },
    at: made.at,
    atOffMm: [far * a, far * b, far * c],
    sizeMm: made.size,
    offMm,
    residuals: corners.map((_, i) => Math.hypot(off[2 * i], off[2 * i + 1])),
    rmsPx: fit.rms,
  };
}

/** The eight corners of a box. */
export const CORNERS: readonly Corner[] = [0, 1].flatMap((x) => [0, 1].flatMap((y) => [0, 1].map((z) => [x, y, z] as Corner)));

/** How far apart two directions are, degrees. */
export const degreesBetween = (a: Vec3, b: Vec3): number =>
  (Math.acos(Math.min(1, Math.max(-1, dot(a, b) / (Math.hypot(...a) * Math.hypot(...b))))) * 180) / Math.PI;
