import { type PolyMesh, triangleCount } from '../mesh/polymesh';
import { soupOf } from '../mesh/soup';
import { RayQuery } from '../rays/query';
import { buildTree } from '../rays/tree';

/** Rays cast at most; an even share of the triangles when there are more. */
const RAYS = 1500;
/** They begin a little inside, so as not to meet the face they come from, mm. */
const START = 1e-6;

/**
 * How thick a closed wall is: rays from the middles of triangles straight inward, to where they leave the body again.
 *
 * @returns the least and the greatest found, mm; null when no ray comes out
 */
export function wallThickness(mesh: PolyMesh): { least: number; most: number } | null {
  const soup = soupOf(mesh);
  const query = new RayQuery(buildTree(soup));
  const n = triangleCount(mesh);
  const step = Math.max(1, Math.floor(n / RAYS));
  let [least, most] = [Infinity, 0];
  for (let t = 0; t < n; t += step) {
    const p = soup.subarray(9 * t, 9 * t + 9);
    const u = [p[3] - p[0], p[4] - p[1], p[5] - p[2]];
    const v = [p[6] - p[0], p[7] - p[1], p[8] - p[2]];
    const w = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
    const l = Math.hypot(w[0], w[1], w[2]);
    if (l < 1e-12) continue;
    const d = w.map((x) => -x / l);
    const o = [0, 1, 2].map((k) => (p[k] + p[3 + k] + p[6 + k]) / 3 + START * d[k]);
    if (!query.closest(o[0], o[1], o[2], d[0], d[1], d[2], 0, 1e9)) continue;
    least = Math.min(least, query.t + START);
    most = Math.max(most, query.t + START);
  }
  return most > 0 ? { least, most } : null;
}
