import { ON_TRIANGLE } from '../inspect/deviation';
import { cageNormals } from '../mesh/normals';
import type { PolyMesh } from '../mesh/polymesh';
import { RayQuery } from '../rays/query';
import type { Distances } from './distances';
import type { PairLie } from './lie-words';
import type { HighSide } from './prepare';

export type { PairLie } from './lie-words';

/** What is smaller than this is no shortfall, mm and as a share of the part’s size. */
const LEAST_MM = 0.02;
const LEAST_SHARE = 5e-4;
/**
 * Chords lie inside curves by nothing at their ends and by the sagitta in their middle, so nineteen of twenty places then lie far less
 * deep than the middle one; on a mesh that is too small all over they lie nearly as deep. Common practice, no source.
 */
const ALL_OVER = 0.4;
const OFTEN = 0.05;
/** @param distances measured between the two, positive where the high mesh lies outside */
export function lieOf(low: PolyMesh, high: HighSide, highMesh: PolyMesh, distances: Distances): PairLie {
  const size = diagonal(low);
  return {
    insideMm: insideOf(distances, size),
    againstShare: againstOf(low, high),
    scale: size > 0 ? diagonal(highMesh) / size : 1,
  };
}

function insideOf({ signed, lost }: Distances, size: number): number {
  if (signed.length === 0 || lost > signed.length) return 0;
  const sorted = signed.slice().sort();
  const at = (share: number) => sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))];
  const least = at(OFTEN);
  return least > Math.max(LEAST_MM, LEAST_SHARE * size) && least > ALL_OVER * at(0.5) ? least : 0;
}

/** Places asked about at most. */
const MOST = 4000;

function againstOf(mesh: PolyMesh, high: HighSide): number {
  const query = new RayQuery(high.tree);
  const cage = cageNormals(mesh);
  const triangles = mesh.triangles.length / 3;
  const every = Math.max(1, Math.floor(triangles / MOST));
  let [against, asked] = [0, 0];
  const w = ON_TRIANGLE[6];
  for (let t = 0; t < triangles; t += every) {
    const corners = [0, 1, 2].map((k) => mesh.triangles[3 * t + k]);
    const mix = (of: ArrayLike<number>, at: (c: number) => number, k: number) =>
      corners.reduce((s, c, i) => s + w[i] * of[3 * at(c) + k], 0);
    const [x, y, z] = [0, 1, 2].map((k) => mix(mesh.positions, (c) => mesh.faceVert[c], k));
    if (!query.nearest(x, y, z, Infinity)) continue;
    const o = 9 * query.triangle;
    let dot = 0;
    for (let k = 0; k < 3; k++) dot += high.normals[o + k] * mix(cage, (c) => c, k);
    asked++;
    if (dot < -0.2) against++;
  }
  return asked > 0 ? against / asked : 0;
}

function diagonal(mesh: PolyMesh): number {
  const [min, max] = [
    [Infinity, Infinity, Infinity],
    [-Infinity, -Infinity, -Infinity],
  ];
  for (const v of mesh.faceVert)
    for (let k = 0; k < 3; k++) {
      min[k] = Math.min(min[k], mesh.positions[3 * v + k]);
      max[k] = Math.max(max[k], mesh.positions[3 * v + k]);
    }
  return mesh.faceVert.length > 0 ? Math.hypot(...max.map((x, k) => x - min[k])) : 0;
}
