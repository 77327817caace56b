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

/** How far two surfaces lie apart: from places on each to the nearest of the other, both ways (Cignoni, Rocchini & Scopigno 1998). */
export function deviation(a: PolyMesh, b: PolyMesh): Deviation {
  const [p, q] = [soupOf(a), soupOf(b)];
  const one = oneWay(p, triangleCount(a), new RayQuery(buildTree(q)));
  const two = oneWay(q, triangleCount(b), new RayQuery(buildTree(p)));
  return { most: Math.max(one.most, two.most), mean: Math.sqrt((one.sum + two.sum) / Math.max(one.n + two.n, 1)) };
}

function oneWay(soup: Float64Array, triangles: number, query: RayQuery): { most: number; sum: number; n: number } {
  let [most, sum, n] = [0, 0, 0];
  for (let t = 0; t < triangles; t++)
    for (const w of ON_TRIANGLE) {
      const at = [0, 1, 2].map((k) => w[0] * soup[9 * t + k] + w[1] * soup[9 * t + 3 + k] + w[2] * soup[9 * t + 6 + k]);
      if (!query.nearest(at[0], at[1], at[2], Infinity)) continue;
      most = Math.max(most, query.t);
      sum += query.t * query.t;
      n++;
    }
  return { most, sum, n };
}
