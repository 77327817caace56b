import { type Vec3, vec3 } from '../maths/vec3';
import { type PolyMesh, triangleCount } from '../mesh/polymesh';
import { soupOf } from '../mesh/soup';
import { meshTree } from '../rays/of-mesh';
import { RayQuery } from '../rays/query';
import { checkpoint, QUIET, type Task } from '../task';

/** Rays cast at most; an even share of the triangles when there are more. */
const RAYS = 1500;
/** They begin a little inside, so as not to meet the face they come from, mm. */
const START = 1e-6;

/** Casts rays from the middles of triangles straight inward. */
class Inward {
  private readonly query: RayQuery;
  readonly soup: Float64Array;
  constructor(mesh: PolyMesh) {
    this.soup = soupOf(mesh);
    this.query = new RayQuery(meshTree(mesh));
  }
  /** How thick the body is under a triangle, mm; NaN where no ray comes out or the triangle has no area. */
  under(t: number): number {
    const p = this.soup.subarray(9 * t, 9 * t + 9);
    const [ux, uy, uz] = [p[3] - p[0], p[4] - p[1], p[5] - p[2]];
    const [vx, vy, vz] = [p[6] - p[0], p[7] - p[1], p[8] - p[2]];
    const [wx, wy, wz] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
    const l = Math.hypot(wx, wy, wz);
    if (l < 1e-12) return Number.NaN;
    const [dx, dy, dz] = [-wx / l, -wy / l, -wz / l];
    const [x, y, z] = [0, 1, 2].map((k) => (p[k] + p[3 + k] + p[6 + k]) / 3);
    if (!this.query.closest(x + START * dx, y + START * dy, z + START * dz, dx, dy, dz, START, 1e9)) return Number.NaN;
    return this.query.t + START;
  }
}

/**
 * How thick a closed wall is: rays from the middles of triangles straight inward, to where they leave the body again.
 *
 * @returns the least and the greatest found, mm; null when no ray comes out
 */
export function wallThickness(mesh: PolyMesh): { least: number; most: number } | null {
  const inward = new Inward(mesh);
  const n = triangleCount(mesh);
  const step = Math.max(1, Math.floor(n / RAYS));
  let [least, most] = [Infinity, 0];
  for (let t = 0; t < n; t += step) {
    const thick = inward.under(t);
    if (Number.isNaN(thick)) continue;
    least = Math.min(least, thick);
    most = Math.max(most, thick);
  }
  return most > 0 ? { least, most } : null;
}

/** The thickness under each triangle, mm; NaN where no ray comes out. */
export function thicknesses(mesh: PolyMesh, task: Task = QUIET): Float32Array {
  const inward = new Inward(mesh);
  const n = triangleCount(mesh);
  return Float32Array.from({ length: n }, (_, t) => {
    if ((t & 1023) === 0) {
      checkpoint(task);
      task.progress(t / n, 'measuring walls');
    }
    return inward.under(t);
  });
}

/** Thinner than this share of what is wanted is thin: rays meet slanted walls a little off. */
const THIN = 0.999;

/** Middles of triangles under which a closed body is thinner than wanted, thinnest first, and the least found. */
export function thinPlaces(mesh: PolyMesh, wantedMm: number): { least: number; places: Vec3[] } {
  const soup = soupOf(mesh);
  const thick = thicknesses(mesh);
  const list = [...thick.keys()].filter((t) => thick[t] < THIN * wantedMm).sort((a, b) => thick[a] - thick[b] || a - b);
  return {
    least: list.length > 0 ? thick[list[0]] : Infinity,
    places: list.map((t) => vec3((k) => (soup[9 * t + k] + soup[9 * t + 3 + k] + soup[9 * t + 6 + k]) / 3)),
  };
}
