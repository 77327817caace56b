import { at, cross, dot, normalise, scale, sub, type Vec3 } from '../maths/vec3';
import { boundsOf, triangleArea } from '../mesh/measures';
import { type PolyMesh, triangleCount } from '../mesh/polymesh';

/** Which way the grain of a part runs: brush marks, wood, a weave. `length` is along its longest side. */
export type Grain = 'none' | 'length' | 'x' | 'y' | 'z';
export const GRAINS: Record<Grain, string> = {
  none: 'none',
  length: 'along its length',
  x: 'along x',
  y: 'along y',
  z: 'along z',
};

/** Faces that look more along the grain than this show its ends, whichever way they lie: the sine of 15°. */
const ENDS = Math.sin(Math.PI / 12);
/** An island has a grain when this share of its area does. */
const MOST_OF_IT = 0.2;

/** The direction of a grain in the part’s own space. @param faces those it belongs to; all when absent */
export function grainDirection(mesh: PolyMesh, grain: Exclude<Grain, 'none'>, faces?: readonly number[]): Vec3 {
  const axis = (k: number): Vec3 => [Number(k === 0), Number(k === 1), Number(k === 2)];
  if (grain !== 'length') return axis('xyz'.indexOf(grain));
  const { min, max } = faces ? boundsOfFaces(mesh, faces) : boundsOf(mesh);
  const sides = max.map((x, k) => x - min[k]);
  return axis(sides.indexOf(Math.max(...sides)));
}

/** The direction of a grain: one for all islands, or each its own, some having none. */
export type Along = Vec3 | readonly (Vec3 | null)[];
const wayOf = (along: Along, island: number): Vec3 | null =>
  typeof along[0] === 'number' ? (along as Vec3) : ((along[island] ?? null) as Vec3 | null);

function boundsOfFaces(mesh: PolyMesh, faces: readonly number[]): { min: number[]; max: number[] } {
  const [min, max] = [
    [Infinity, Infinity, Infinity],
    [-Infinity, -Infinity, -Infinity],
  ];
  for (const f of faces)
    for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++)
      for (let k = 0; k < 3; k++) {
        const x = mesh.positions[3 * mesh.faceVert[c] + k];
        min[k] = Math.min(min[k], x);
        max[k] = Math.max(max[k], x);
      }
  return { min, max };
}

/** How the grain lies on a triangle of a layout, radians from u to v, and the area it counts with; null where only ends show. */
function grainOn(mesh: PolyMesh, uv: ArrayLike<number>, t: number, along: Vec3): { angle: number; area: number } | null {
  const [a, b, c] = [0, 1, 2].map((k) => at(mesh.positions, mesh.faceVert[mesh.triangles[3 * t + k]]));
  const [e, f] = [sub(b, a), sub(c, a)];
  const area = triangleArea(mesh, t);
  if (area <= 0) return null;
  const n = normalise(cross(e, f));
  const g = sub(along, scale(n, dot(along, n)));
  if (Math.hypot(...g) < ENDS) return null;
  const [ee, ef, ff] = [dot(e, e), dot(e, f), dot(f, f)];
  const [ge, gf] = [dot(g, e), dot(g, f)];
  const [s, r] = [ff * ge - ef * gf, ee * gf - ef * ge];
  const [ca, cb, cc] = [0, 1, 2].map((k) => 2 * mesh.triangles[3 * t + k]);
  const x = s * (uv[cb] - uv[ca]) + r * (uv[cc] - uv[ca]);
  const y = s * (uv[cb + 1] - uv[ca + 1]) + r * (uv[cc + 1] - uv[ca + 1]);
  return x === 0 && y === 0 ? null : { angle: Math.atan2(y, x), area };
}

/**
 * By how much each island has to be turned for its grain to run up the tile, radians; NaN for islands of ends alone. It is the mean over its
 * area, a line having no front and back: of twice the angles (Mardia & Jupp, Directional Statistics, 1.4; the formula from memory).
 */
export function grainTurns(
  mesh: PolyMesh,
  flat: ArrayLike<number>,
  island: ArrayLike<number>,
  islands: number,
  along: Along,
): Float64Array {
  const [x, y, with_, all] = [0, 1, 2, 3].map(() => new Float64Array(islands));
  for (let t = 0; t < triangleCount(mesh); t++) {
    const i = island[mesh.triangleFace[t]];
    all[i] += triangleArea(mesh, t);
    const way = wayOf(along, i);
    const on = way && grainOn(mesh, flat, t, way);
    if (!on) continue;
    x[i] += on.area * Math.cos(2 * on.angle);
    y[i] += on.area * Math.sin(2 * on.angle);
    with_[i] += on.area;
  }
  return all.map((whole, i) => (with_[i] > MOST_OF_IT * whole ? Math.PI / 2 - Math.atan2(y[i], x[i]) / 2 : Number.NaN));
}

/** How far the grain of a layout is off the upright, degrees: the mean over the surface that has one, and over the island where it is most. */
export interface GrainOff {
  mean: number;
  worst: number;
}

/** Measures a layout’s grain; null where only ends show. */
export function grainOff(mesh: PolyMesh, uv: ArrayLike<number>, island: ArrayLike<number>, islands: number, along: Along): GrainOff | null {
  const [off, area, all] = [0, 1, 2].map(() => new Float64Array(islands));
  for (let t = 0; t < triangleCount(mesh); t++) {
    const i = island[mesh.triangleFace[t]];
    all[i] += triangleArea(mesh, t);
    const way = wayOf(along, i);
    const on = way && grainOn(mesh, uv, t, way);
    if (!on) continue;
    off[i] += on.area * Math.abs(Math.asin(Math.min(1, Math.abs(Math.cos(on.angle)))));
    area[i] += on.area;
  }
  let [sum, whole, worst] = [0, 0, 0];
  for (let i = 0; i < islands; i++) {
    if (area[i] <= MOST_OF_IT * all[i]) continue;
    sum += off[i];
    whole += area[i];
    worst = Math.max(worst, off[i] / area[i]);
  }
  const degrees = 180 / Math.PI;
  return whole > 0 ? { mean: (sum / whole) * degrees, worst: worst * degrees } : null;
}
