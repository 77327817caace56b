import { type PolyMesh, triangleCount } from '../mesh/polymesh';
import { soupOf } from '../mesh/soup';
import { RayQuery } from '../rays/query';
import { buildTree } from '../rays/tree';

/** Two-sided distance between two surfaces, mm. */
export interface Deviation {
  /** Greatest distance found (sampled Hausdorff distance). */
  most: number;
  /** Root of the mean square. */
  mean: number;
}

/** Places on a triangle that are asked about, by the shares of its corners: corners, middles of sides, its middle. */
export const ON_TRIANGLE: readonly (readonly [number, number, number])[] = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
  [0.5, 0.5, 0],
  [0, 0.5, 0.5],
  [0.5, 0, 0.5],
  [1 / 3, 1 / 3, 1 / 3],
];

/** Places asked about on a surface at most, about; every triangle has one. */
const PLACES = 1_000_000;

/**
 * How far two surfaces lie apart: from places on each to the nearest of the other, both ways (Cignoni, Rocchini & Scopigno 1998).
 *
 * @param places asked about on each at most, about
 */
export function deviation(a: PolyMesh, b: PolyMesh, places = PLACES): Deviation {
  const [p, q] = [soupOf(a), soupOf(b)];
  const one = oneWay(p, triangleCount(a), new RayQuery(buildTree(q)), places);
  const two = oneWay(q, triangleCount(b), new RayQuery(buildTree(p)), places);
  return { most: Math.max(one.most, two.most), mean: Math.sqrt((one.sum + two.sum) / Math.max(one.n + two.n, 1)) };
}

/** The order places are asked in where not all are: the points of a dense mesh say the most of it. */
const FIRST = [0, 6, 1, 2, 3, 4, 5];
function oneWay(soup: Float64Array, triangles: number, query: RayQuery, places: number): { most: number; sum: number; n: number } {
  let [most, sum, n] = [0, 0, 0];
  const each = Math.min(FIRST.length, Math.max(1, Math.floor(places / Math.max(triangles, 1))));
  // From one place to the next the distance changes by no more than the way between them: hardly any of the tree has to be gone through.
  let [px, py, pz, last] = [0, 0, 0, Infinity];
  for (let t = 0; t < triangles; t++)
    for (let i = 0; i < each; i++) {
      const w = ON_TRIANGLE[FIRST[i]];
      const at = 9 * t;
      const x = w[0] * soup[at] + w[1] * soup[at + 3] + w[2] * soup[at + 6];
      const y = w[0] * soup[at + 1] + w[1] * soup[at + 4] + w[2] * soup[at + 7];
      const z = w[0] * soup[at + 2] + w[1] * soup[at + 5] + w[2] * soup[at + 8];
      const bound = (last + Math.sqrt((x - px) ** 2 + (y - py) ** 2 + (z - pz) ** 2)) * 1.0001 + 1e-9;
      if (!query.nearest(x, y, z, bound) && !query.nearest(x, y, z, Infinity)) continue;
      [px, py, pz, last] = [x, y, z, query.t];
      most = Math.max(most, query.t);
      sum += query.t * query.t;
      n++;
    }
  return { most, sum, n };
}
