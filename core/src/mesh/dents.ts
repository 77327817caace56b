import { random } from '../maths/random';
import { cross, normalise, type Vec3, vec3 } from '../maths/vec3';
import { moved } from './deform';
import { triangleArea } from './measures';
import { type PolyMesh, triangleCount } from './polymesh';
import { refine } from './refine';

/** A place where the body was hit: space within `radius` of it is pressed along `way`, by `depth` in the middle. mm. */
export interface Dent {
  centre: Vec3;
  way: Vec3;
  radius: number;
  depth: number;
}

/** Options for {@link dentsOn}. Lengths in mm. */
export interface DentOptions {
  count: number;
  seed: number;
  smallest: number;
  largest: number;
  /** Depth of the largest; smaller ones in proportion. */
  depth: number;
}

/**
 * The steepest a dent may be: w = (1 − t²)² falls by at most 8/(3√3) per radius, so with a depth below 0.649 radii the map of
 * space has no fold, and nothing that lay apart can cross, the two sides of a wall included.
 */
export const STEEPEST = (3 * Math.sqrt(3)) / 8;

/** Places drawn evenly over a surface, seeded; each is pressed in against the surface's own direction. */
export function dentsOn(mesh: PolyMesh, options: DentOptions, only?: ArrayLike<number>): Dent[] {
  const next = random(options.seed);
  const sums = new Float64Array(triangleCount(mesh));
  let total = 0;
  for (let t = 0; t < sums.length; t++) sums[t] = total += only && !only[mesh.triangleFace[t]] ? 0 : triangleArea(mesh, t);
  if (total === 0) return [];
  return Array.from({ length: options.count }, (): Dent => {
    const wanted = next() * total;
    let t = 0;
    while (t < sums.length - 1 && sums[t] < wanted) t++;
    const [a, b, c] = [0, 1, 2].map((k) => {
      const v = 3 * mesh.faceVert[mesh.triangles[3 * t + k]];
      return [mesh.positions[v], mesh.positions[v + 1], mesh.positions[v + 2]] as const;
    });
    const s = Math.sqrt(next());
    const r = next();
    const centre = vec3((k) => (1 - s) * a[k] + s * (1 - r) * b[k] + s * r * c[k]);
    const n = normalise(cross([b[0] - a[0], b[1] - a[1], b[2] - a[2]], [c[0] - a[0], c[1] - a[1], c[2] - a[2]]));
    // Never quite square on, as a knock isn't.
    const way = normalise([-n[0] + 0.3 * (next() - 0.5), -n[1] + 0.3 * (next() - 0.5), -n[2] + 0.3 * (next() - 0.5)]);
    const size = next();
    const radius = options.smallest + (options.largest - options.smallest) * size;
    return { centre, way, radius, depth: Math.min(options.depth * (radius / options.largest), 0.95 * STEEPEST * radius) };
  });
}

/** @param fineMm edges within a dent are divided until they are this short; not at all when absent */
export function dent(mesh: PolyMesh, dents: readonly Dent[], fineMm?: (d: Dent) => number): PolyMesh {
  const fine = fineMm
    ? refine(mesh, (p, a, b) => {
        const long = Math.hypot(p[3 * a] - p[3 * b], p[3 * a + 1] - p[3 * b + 1], p[3 * a + 2] - p[3 * b + 2]);
        return dents.some((d) => long > fineMm(d) && near(p, a, b, d.centre) < d.radius);
      })
    : mesh;
  return moved(fine, (p) => {
    let at = p;
    for (const d of dents) {
      const t = Math.hypot(at[0] - d.centre[0], at[1] - d.centre[1], at[2] - d.centre[2]) / d.radius;
      if (t >= 1) continue;
      const k = d.depth * (1 - t * t) ** 2;
      at = [at[0] + k * d.way[0], at[1] + k * d.way[1], at[2] + k * d.way[2]];
    }
    return at;
  });
}

/** Distance of a point from an edge. */
function near(p: Float64Array, a: number, b: number, c: Vec3): number {
  const d = [0, 1, 2].map((k) => p[3 * b + k] - p[3 * a + k]);
  const e = [0, 1, 2].map((k) => c[k] - p[3 * a + k]);
  const t = Math.min(1, Math.max(0, (d[0] * e[0] + d[1] * e[1] + d[2] * e[2]) / (d[0] ** 2 + d[1] ** 2 + d[2] ** 2 || 1)));
  return Math.hypot(e[0] - t * d[0], e[1] - t * d[1], e[2] - t * d[2]);
}
