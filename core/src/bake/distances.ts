import { ON_TRIANGLE } from '../inspect/deviation';
import { edgesOf } from '../mesh/connectivity';
import { areaOf } from '../mesh/measures';
import { type PolyMesh, vertexCount } from '../mesh/polymesh';
import { RayQuery } from '../rays/query';
import type { HighSide, LowShape } from './prepare';

/** How far the two meshes of a pair lie apart, measured. */
export interface Distances {
  /** Per vertex of the low mesh, mm. */
  front: Float64Array;
  rear: Float64Array;
  /** Signed distances along the cage direction of all samples that found the high mesh, mm: positive is outside. */
  signed: Float32Array;
  /** Samples that found nothing within reach. */
  lost: number;
  /** One pair of distances for the whole part that would do the same. */
  uniform: { front: number; rear: number };
  /** What so many times these distances would come to. */
  trials: DistanceTrial[];
}

/** So many times the measured distances: of how many rays how many find nothing, and how many another place than the one measured. */
export interface DistanceTrial {
  times: number;
  missed: number;
  wrong: number;
  of: number;
}

/** Added to what is needed, and the least ever searched, mm. */
const MARGIN = 1.1;
const LEAST_MM = 0.02;

/**
 * Measures the search distances: from points all over the low mesh, along the direction its cage moves in, out and in, to
 * the nearest high surface that faces the same way. Every vertex keeps the largest need of its triangles and a tenth more,
 * is smoothed with its neighbours, and raised again to its need.
 */
export function measureDistances(mesh: PolyMesh, low: LowShape, high: HighSide): Distances {
  const query = new RayQuery(high.tree);
  const reach = reachOf(low, query);
  const vertices = vertexCount(mesh);
  const needFront = new Float64Array(vertices).fill(LEAST_MM);
  const needRear = new Float64Array(vertices).fill(LEAST_MM);
  const step = stepOn(mesh);
  const signed: number[] = [];
  let lost = 0;
  for (let t = 0; t < low.triangles; t++) {
    const corners = [0, 1, 2].map((k) => mesh.faceVert[mesh.triangles[3 * t + k]]);
    const raise = (d: number) => {
      for (const v of corners) {
        if (d > 0) needFront[v] = Math.max(needFront[v], d * MARGIN);
        else needRear[v] = Math.max(needRear[v], -d * MARGIN);
      }
    };
    for (const [w1, w2] of samplesFor(low, t, step)) {
      const d = signedDistance(low, high, query, t, 1 - w1 - w2, w1, w2, reach);
      if (d === null) lost++;
      else {
        signed.push(d);
        raise(d);
      }
    }
  }
  const front = smoothAbove(mesh, needFront);
  const rear = smoothAbove(mesh, needRear);
  const trials = tryDistances(mesh, low, high, query, front, rear, reach);
  const uniform = { front: needFront.reduce((a, b) => Math.max(a, b), 0), rear: needRear.reduce((a, b) => Math.max(a, b), 0) };
  return { front, rear, signed: Float32Array.from(signed), lost, uniform, trials };
}

/** Tried: a quarter of the measured distances to eight times as much. */
const TIMES = [0.25, 0.5, 1, 2, 4, 8];
/** Triangles of a part that it is tried on. */
const TRIED = 1500;
/** A place that lies off by more than so much of what was searched, or of a margin, is another one. */
const ELSEWHERE = 0.02;

/** From the middles of triangles all over the part: rays as a bake sends them, held against the nearest surface that faces the same way. */
function tryDistances(
  mesh: PolyMesh,
  low: LowShape,
  high: HighSide,
  query: RayQuery,
  front: Float64Array,
  rear: Float64Array,
  reach: number,
): DistanceTrial[] {
  const out = TIMES.map((times) => ({ times, missed: 0, wrong: 0, of: 0 }));
  const step = Math.max(1, Math.floor(low.triangles / TRIED));
  for (let t = 0; t < low.triangles; t += step) {
    const d = signedDistance(low, high, query, t, 1 / 3, 1 / 3, 1 / 3, reach);
    if (d === null) continue;
    const at = middle(low.position, t);
    const way = middle(low.cage, t);
    const l = Math.hypot(...way) || 1;
    const [dx, dy, dz] = way.map((x) => x / l);
    const mean = (of: Float64Array) => [0, 1, 2].reduce((s, k) => s + of[mesh.faceVert[mesh.triangles[3 * t + k]]] / 3, 0);
    const [f, r] = [mean(front), mean(rear)];
    for (const trial of out) {
      const from = trial.times * f;
      trial.of++;
      if (!query.closest(at[0] + dx * from, at[1] + dy * from, at[2] + dz * from, -dx, -dy, -dz, -1e-9, from + trial.times * r))
        trial.missed++;
      else if (Math.abs(from - query.t - d) > Math.max(LEAST_MM, ELSEWHERE * (f + r))) trial.wrong++;
    }
  }
  return out;
}
const middle = (of: Float32Array, t: number): number[] => [0, 1, 2].map((k) => (of[9 * t + k] + of[9 * t + 3 + k] + of[9 * t + 6 + k]) / 3);

/** Degrees between the direction of search and the faces, at every corner, weighed by area: the mean, and the most. */
export function leanOf({ triangles, position: p, cage }: LowShape): { mean: number; most: number } {
  let [sum, weight, most] = [0, 0, 0];
  for (let t = 0; t < triangles; t++) {
    const o = 9 * t;
    const [ax, ay, az] = [p[o + 3] - p[o], p[o + 4] - p[o + 1], p[o + 5] - p[o + 2]];
    const [bx, by, bz] = [p[o + 6] - p[o], p[o + 7] - p[o + 1], p[o + 8] - p[o + 2]];
    const [nx, ny, nz] = [ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx];
    const area = Math.sqrt(nx * nx + ny * ny + nz * nz);
    if (area === 0) continue;
    for (let k = 0; k < 3; k++) {
      const c = o + 3 * k;
      const length = Math.hypot(cage[c], cage[c + 1], cage[c + 2]);
      if (length === 0) continue;
      const cos = (nx * cage[c] + ny * cage[c + 1] + nz * cage[c + 2]) / (area * length);
      const degrees = (Math.acos(Math.max(-1, Math.min(1, cos))) * 180) / Math.PI;
      sum += area * degrees;
      weight += area;
      most = Math.max(most, degrees);
    }
  }
  return { mean: weight > 0 ? sum / weight : 0, most };
}

/** Share of measured samples (lost ones too) that search distances of one size for the whole part would miss. */
export function missedBy(d: Distances, front: number, rear: number): number {
  let missed = d.lost;
  for (const s of d.signed) if (s > front || -s > rear) missed++;
  return missed / Math.max(1, d.signed.length + d.lost);
}

/** The least that is searched, as a share of the part's size: half a millimetre of a thing of 200. */
const LEAST_SHARE = 1 / 400;

/**
 * Search no farther than four times the farthest nearest point: beyond that lies another wall. Asked over the faces and edges of the low
 * mesh as well as its corners, which on a mesh that was simplified all lie on the high one.
 */
function reachOf(low: LowShape, query: RayQuery): number {
  const p = low.position;
  const [min, max] = [
    [Infinity, Infinity, Infinity],
    [-Infinity, -Infinity, -Infinity],
  ];
  let most = 0;
  for (let t = 0; t < low.triangles; t++) {
    for (const w of ON_TRIANGLE) {
      const [x, y, z] = [0, 1, 2].map((k) => w[0] * p[9 * t + k] + w[1] * p[9 * t + 3 + k] + w[2] * p[9 * t + 6 + k]);
      if (query.nearest(x, y, z, Infinity)) most = Math.max(most, query.t);
    }
    for (let i = 0; i < 9; i++) {
      min[i % 3] = Math.min(min[i % 3], p[9 * t + i]);
      max[i % 3] = Math.max(max[i % 3], p[9 * t + i]);
    }
  }
  return Math.max(LEAST_SHARE * Math.hypot(max[0] - min[0], max[1] - min[1], max[2] - min[2]), 4 * most);
}

/** Places on a triangle in n steps a side, drawn in from its edges so that no ray runs along one. */
function grid(n: number): [number, number][] {
  const out: [number, number][] = [];
  for (let i = 0; i <= n; i++)
    for (let j = 0; i + j <= n; j++) {
      const [a, b] = [Math.max(0.001, i / n), Math.max(0.001, j / n)];
      const k = a + b > 0.999 ? 0.999 / (a + b) : 1;
      out.push([a * k, b * k]);
    }
  return out;
}
const grids = new Map<number, [number, number][]>();

/** Steps of about 1.5 mm: a detail of the high mesh narrower than that can hide between samples. On large parts as many as this, about. */
const STEP_MM = 1.5;
const MOST_SAMPLES = 400_000;
const MOST_STEPS = 64;

/** The step that puts no more samples on a part than there may be, mm. */
function stepOn(mesh: PolyMesh): number {
  return Math.max(STEP_MM, Math.sqrt((2 * areaOf(mesh)) / MOST_SAMPLES));
}

function samplesFor(low: LowShape, t: number, step: number): [number, number][] {
  const p = low.position;
  let longest = 0;
  for (let k = 0; k < 3; k++) {
    const [a, b] = [9 * t + 3 * k, 9 * t + 3 * ((k + 1) % 3)];
    longest = Math.max(longest, Math.hypot(p[a] - p[b], p[a + 1] - p[b + 1], p[a + 2] - p[b + 2]));
  }
  const n = Math.min(MOST_STEPS, Math.max(2, Math.ceil(longest / step)));
  const made = grids.get(n) ?? grid(n);
  grids.set(n, made);
  return made;
}

function signedDistance(
  low: LowShape,
  high: HighSide,
  query: RayQuery,
  t: number,
  w0: number,
  w1: number,
  w2: number,
  reach: number,
): number | null {
  const mix = (a: Float32Array, k: number) => w0 * a[9 * t + k] + w1 * a[9 * t + 3 + k] + w2 * a[9 * t + 6 + k];
  const [x, y, z] = [mix(low.position, 0), mix(low.position, 1), mix(low.position, 2)];
  let [dx, dy, dz] = [mix(low.cage, 0), mix(low.cage, 1), mix(low.cage, 2)];
  const l = Math.hypot(dx, dy, dz) || 1;
  dx /= l;
  dy /= l;
  dz /= l;
  const facing = () => {
    const n = high.normals;
    const o = 9 * query.triangle;
    return n[o] * dx + n[o + 1] * dy + n[o + 2] * dz > 0;
  };
  const out = query.closest(x, y, z, dx, dy, dz, -1e-6, reach) && facing() ? query.t : null;
  const into = query.closest(x, y, z, -dx, -dy, -dz, -1e-6, reach) && facing() ? query.t : null;
  if (out === null) return into === null ? null : -into;
  return into === null || out <= into ? out : -into;
}

/** Twice averaged with the neighbours, never below the need. */
function smoothAbove(mesh: PolyMesh, need: Float64Array): Float64Array {
  const edges = edgesOf(mesh);
  let current = need.slice();
  for (let pass = 0; pass < 2; pass++) {
    const sum = current.slice();
    const count = new Float64Array(current.length).fill(1);
    for (let e = 0; e < edges.count; e++) {
      const [a, b] = [edges.ends[2 * e], edges.ends[2 * e + 1]];
      sum[a] += current[b];
      sum[b] += current[a];
      count[a]++;
      count[b]++;
    }
    current = current.map((_, v) => Math.max(need[v], sum[v] / count[v]));
  }
  return current;
}

/** Counts of signed distances in equal bins from `from` to `to` mm. */
export function histogram(signed: Float32Array, bins: number): { from: number; to: number; counts: number[] } {
  let [from, to] = [0, 0];
  for (const s of signed) {
    if (s < from) from = s;
    if (s > to) to = s;
  }
  if (to - from < 1e-6) to = from + 1e-6;
  const counts = new Array<number>(bins).fill(0);
  for (const s of signed) counts[Math.min(bins - 1, Math.floor(((s - from) / (to - from)) * bins))]++;
  return { from, to, counts };
}
