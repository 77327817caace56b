import { InputError } from '../errors';
import { eigen3 } from '../maths/eigen3';
import { cross, dot, normalise, scale, sub, type Vec3 } from '../maths/vec3';
import { figure } from '../units/lengths';
import { type Fit, leastSquares } from './least';

/** A place in a photograph, px from its upper left corner, right and down; the middle of the first pixel is at ½, ½. */
export type Px = readonly [number, number];

/** An edge drawn over the photograph: two ends, and places between them where the lens may bend it. */
export interface Edge {
  points: readonly Px[];
}

/** Edges that are parallel in the world, along one of its axes: x to the right, y up, z towards whoever looks. */
export interface Bundle {
  axis: 0 | 1 | 2;
  edges: readonly Edge[];
}

/** What is known of the lens beside the edges. */
export interface MatchOptions {
  width: number;
  height: number;
  /** Focal length, px, where it is known: then it is not looked for. */
  focalPx?: number;
  /** The middle of the lens is looked for: the picture may have been cropped. Only three bundles can tell. */
  cropped?: boolean;
  /** How the lens bends lines is looked for; only edges with places between their ends can tell. */
  bends?: boolean;
}

/** A camera as it was matched. Directions of the world’s axes in the camera: right, down, forward. */
export interface Matched {
  focalPx: number;
  /** Where the lens looks, px. */
  middle: Px;
  /** Bending of lines: a place r half-diagonals from the middle lies (1 + k·r²) times as far out without it. */
  bending: number;
  axes: readonly [Vec3, Vec3, Vec3];
  /** Standard deviations: of the focal length as a share of it, of the middle in px, of directions in degrees. */
  focalShare: number;
  middlePx: number;
  degrees: number;
  /** How far each edge misses its bundle’s point, px, in the order they were given. */
  residuals: number[][];
  rmsPx: number;
}

const LEAST_EDGES = 2;
/** What axes are called. */
export const AXES = ['x', 'y', 'z'] as const;

/** The line through places of an edge by least squares, as a·x + b·y + c = 0 with a² + b² = 1, and its middle. */
function lineOf(points: readonly Px[]): { line: Vec3; middle: Px } {
  const n = points.length;
  const [mx, my] = [0, 1].map((k) => points.reduce((s, p) => s + p[k], 0) / n);
  let [xx, xy, yy] = [0, 0, 0];
  for (const [x, y] of points) {
    xx += (x - mx) ** 2;
    xy += (x - mx) * (y - my);
    yy += (y - my) ** 2;
  }
  const angle = 0.5 * Math.atan2(2 * xy, xx - yy);
  const [a, b] = [-Math.sin(angle), Math.cos(angle)];
  return { line: [a, b, -(a * mx + b * my)], middle: [mx, my] };
}

/** Places of a symmetric matrix that say all of it: xx xy xz yy yz zz. */
const UPPER = [
  [0, 0],
  [0, 1],
  [0, 2],
  [1, 1],
  [1, 2],
  [2, 2],
] as const;

/** The point in which the edges of a bundle meet, in units of half the diagonal from the middle, homogeneous: it may lie at infinity. */
export function vanishingPoint({ edges }: Pick<Bundle, 'edges'>, { width, height }: Pick<MatchOptions, 'width' | 'height'>): Vec3 {
  const half = Math.hypot(width, height) / 2;
  const m = [0, 0, 0, 0, 0, 0];
  for (const { points } of edges) {
    const own = points.map(([x, y]): Px => [(x - width / 2) / half, (y - height / 2) / half]);
    const { line } = lineOf(own);
    // Longer edges say more of where they go.
    const ends = own[own.length - 1];
    const weight = (ends[0] - own[0][0]) ** 2 + (ends[1] - own[0][1]) ** 2;
    for (const [n, [i, k]] of UPPER.entries()) m[n] += weight * line[i] * line[k];
  }
  const { values, vectors } = eigen3(m);
  return vectors[values.indexOf(Math.min(...values))];
}

/**
 * The camera of a photograph from bundles of edges that are at right angles in the world: f² = −(v₁ − p)·(v₂ − p) for the points in which
 * two of them meet (Caprile & Torre 1990) to begin with, then all edges at once by least squares of their distances in px.
 *
 * @throws InputError in one sentence where the edges can’t say it
 */
export function matchCamera(bundles: readonly Bundle[], options: MatchOptions): Matched {
  const { width, height } = options;
  const given = bundles.filter((b) => b.edges.length > 0);
  if (given.length < 2) throw new InputError('photo/bundles', 'It takes two bundles of edges, along two directions at right angles.');
  if (new Set(given.map((b) => b.axis)).size < given.length)
    throw new InputError('photo/axes', 'Two bundles run along the same axis; each has one of its own.');
  for (const b of given) {
    if (b.edges.length < LEAST_EDGES)
      throw new InputError('photo/edges', `The bundle along ${AXES[b.axis]} has a single edge; it takes two to see where they meet.`);
    for (const e of b.edges)
      if (e.points.length < 2 || Math.hypot(...[0, 1].map((k) => e.points[e.points.length - 1][k] - e.points[0][k])) < 4)
        throw new InputError('photo/short', `An edge along ${AXES[b.axis]} is shorter than four pixels.`);
  }
  if (options.cropped && given.length < 3)
    throw new InputError('photo/cropped', 'Two bundles can’t tell whether the picture was cropped; draw a third.');
  const half = Math.hypot(width, height) / 2;
  const points = given.map((b) => vanishingPoint(b, options));
  const focal = options.focalPx !== undefined ? options.focalPx / half : firstFocal(points, given);
  const start = firstAxes(points, given, focal);
  const from = {
    axes: start,
    focal,
    cropped: options.cropped === true,
    bends: options.bends === true,
    fixed: options.focalPx !== undefined,
  };
  const edges = given.reduce((n, b) => n + b.edges.length, 0);
  const fit = leastSquares(new Array<number>(count(from)).fill(0), (p) => residualsOf(given, read(p, from), options).flat(2), edges);
  const made = read(fit.parameters, from);
  const spread = deviationsOf(fit, from);
  if (!(spread.focalShare < MOST_UNSURE))
    throw new InputError(
      'photo/parallel',
      `The edges are so nearly parallel in the picture that the lens could be anything within ± ${figure(100 * Math.min(9.99, spread.focalShare), 0)} %; draw edges that run more towards the camera, or longer ones.`,
    );
  return {
    focalPx: made.focal * half,
    middle: [width / 2 + made.middle[0] * half, height / 2 + made.middle[1] * half],
    bending: made.bending,
    axes: made.axes,
    focalShare: spread.focalShare,
    middlePx: spread.middle * half,
    degrees: (spread.turn * 180) / Math.PI,
    residuals: residualsOf(given, made, options).map((of) => of.map((e) => Math.sqrt(e.reduce((n, x) => n + x * x, 0) / e.length))),
    rmsPx: fit.rms,
  };
}

/** A focal length that could be anything within this share of it is not known. */
const MOST_UNSURE = 0.5;

interface From {
  axes: readonly [Vec3, Vec3, Vec3];
  focal: number;
  cropped: boolean;
  bends: boolean;
  fixed: boolean;
}
interface Own {
  axes: readonly [Vec3, Vec3, Vec3];
  focal: number;
  middle: Px;
  bending: number;
}
const count = (f: From): number => 3 + (f.fixed ? 0 : 1) + (f.cropped ? 2 : 0) + (f.bends ? 1 : 0);

/** Parameters as a camera: a turn about the first one, the focal length as its logarithm. */
function read(p: readonly number[], f: From): Own {
  let i = 3;
  const turn: Vec3 = [p[0], p[1], p[2]];
  const focal = f.fixed ? f.focal : f.focal * Math.exp(p[i++]);
  const middle: Px = f.cropped ? [p[i++], p[i++]] : [0, 0];
  const bending = f.bends ? p[i] : 0;
  return { axes: [turned(f.axes[0], turn), turned(f.axes[1], turn), turned(f.axes[2], turn)], focal, middle, bending };
}

function deviationsOf({ deviations }: Fit, f: From): { focalShare: number; middle: number; turn: number } {
  let i = 3;
  const focalShare = f.fixed ? 0 : deviations[i++];
  return {
    focalShare,
    middle: f.cropped ? Math.hypot(deviations[i], deviations[i + 1]) : 0,
    turn: Math.hypot(deviations[0], deviations[1], deviations[2]),
  };
}

/** A direction turned about an axis by its length, radians (Rodrigues). */
export function turned(v: Vec3, turn: Vec3): Vec3 {
  const angle = Math.hypot(...turn);
  if (angle < 1e-15) return v;
  const k = scale(turn, 1 / angle);
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  const across = cross(k, v);
  const along = dot(k, v) * (1 - c);
  return [0, 1, 2].map((i) => v[i] * c + across[i] * s + k[i] * along) as unknown as Vec3;
}

/**
 * How far places lie from the line through their middle towards the point in which edges along a direction meet. Places are straight ones,
 * from the middle of the lens, in any unit; the focal length is in the same.
 */
export function offDirection(places: readonly Px[], d: Vec3, focal: number): number[] {
  const [mx, my] = [0, 1].map((k) => places.reduce((s, p) => s + p[k], 0) / places.length);
  const [a, b, c] = cross([mx, my, 1], [focal * d[0], focal * d[1], d[2]]);
  const l = Math.hypot(a, b) || 1e-12;
  return places.map(([x, y]) => (a * x + b * y + c) / l);
}

/** How far places of each edge lie from the line through its middle towards the point of its bundle, px. */
function residualsOf(bundles: readonly Bundle[], own: Own, { width, height }: MatchOptions): number[][][] {
  const half = Math.hypot(width, height) / 2;
  return bundles.map(({ axis, edges }) =>
    edges.map(({ points }) => {
      const straight = points.map(([x, y]): Px => {
        const [u, v] = [(x - width / 2) / half - own.middle[0], (y - height / 2) / half - own.middle[1]];
        const k = 1 + own.bending * (u * u + v * v);
        return [k * u, k * v];
      });
      return offDirection(straight, own.axes[axis], own.focal).map((x) => half * x);
    }),
  );
}

/** A focal length to begin with: from the two bundles whose points are at right angles most clearly. */
function firstFocal(points: readonly Vec3[], bundles: readonly Bundle[]): number {
  const found: number[] = [];
  let impossible = false;
  for (let i = 0; i < points.length; i++)
    for (let k = i + 1; k < points.length; k++) {
      const [a, b] = [points[i], points[k]];
      const weight = a[2] * b[2];
      // One of them meets nowhere: the two say nothing of the lens.
      if (Math.abs(weight) < 1e-9) continue;
      const f2 = -(a[0] * b[0] + a[1] * b[1]) / weight;
      if (f2 > 0) found.push(Math.sqrt(f2));
      else impossible = true;
    }
  const likely = found.filter((f) => f > 0.2 && f < 200);
  if (likely.length > 0) return likely.sort((a, b) => a - b)[Math.floor(likely.length / 2)];
  if (impossible)
    throw new InputError(
      'photo/angles',
      `The edges along ${bundles.map((b) => AXES[b.axis]).join(' and ')} can’t be at right angles in any lens; look whether each is in the right bundle.`,
    );
  throw new InputError(
    'photo/parallel',
    'The edges are parallel in the picture: they say nothing of the lens. Draw edges that run towards the camera.',
  );
}

/** Axes to begin with, right-handed: y up in the picture, x to the right. */
function firstAxes(points: readonly Vec3[], bundles: readonly Bundle[], focal: number): [Vec3, Vec3, Vec3] {
  const known = new Map(bundles.map((b, i) => [b.axis, normalise([points[i][0], points[i][1], points[i][2] * focal])]));
  const signed = (axis: 0 | 1 | 2): Vec3 | undefined => {
    const d = known.get(axis);
    if (!d) return undefined;
    const wrong = axis === 1 ? d[1] > 0 : axis === 0 ? d[0] < 0 : d[2] > 0;
    return wrong ? scale(d, -1) : d;
  };
  const [x, y, z] = [signed(0), signed(1), signed(2)];
  if (y && x) {
    const right = normalise(sub(x, scale(y, dot(x, y))));
    return [right, y, cross(right, y)];
  }
  if (y && z) {
    const out = normalise(sub(z, scale(y, dot(y, z))));
    return [cross(y, out), y, out];
  }
  if (x && z) {
    let out = normalise(sub(z, scale(x, dot(x, z))));
    let up = cross(out, x);
    if (up[1] > 0) {
      out = scale(out, -1);
      up = scale(up, -1);
    }
    return [x, up, out];
  }
  throw new InputError('photo/bundles', 'It takes two bundles of edges, along two directions at right angles.');
}

/** A direction in the camera towards a place of the photograph; not unit: its forward part is 1. */
export function towards(
  { focalPx, middle, bending }: Pick<Matched, 'focalPx' | 'middle' | 'bending'>,
  [x, y]: Px,
  { width, height }: Pick<MatchOptions, 'width' | 'height'>,
): Vec3 {
  const half = Math.hypot(width, height) / 2;
  const [u, v] = [x - middle[0], y - middle[1]];
  const k = 1 + (bending * (u * u + v * v)) / (half * half);
  return [(k * u) / focalPx, (k * v) / focalPx, 1];
}

/** Where a place of the camera’s space appears in the photograph, without the lens’s bending; null behind the camera. */
export function seenAt({ focalPx, middle }: Pick<Matched, 'focalPx' | 'middle'>, p: Vec3): Px | null {
  if (!(p[2] > 1e-9)) return null;
  return [middle[0] + (focalPx * p[0]) / p[2], middle[1] + (focalPx * p[1]) / p[2]];
}
