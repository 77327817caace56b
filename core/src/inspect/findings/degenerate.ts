import { type PolyMesh, triangleCount } from '../../mesh/polymesh';

/** A triangle lower than this over its longest side is a needle that shades wrong, mm. */
export const NEEDLE_MM = 1e-4;

/** Faces with a triangle of no area, or so thin that rounding decides which way it faces. */
export function degenerateFaces(mesh: PolyMesh): number[] {
  const out = new Set<number>();
  const p = mesh.positions;
  for (let t = 0; t < triangleCount(mesh); t++) {
    const v = [0, 1, 2].map((k) => 3 * mesh.faceVert[mesh.triangles[3 * t + k]]);
    let longest = 0;
    for (let k = 0; k < 3; k++) {
      const [a, b] = [v[k], v[(k + 1) % 3]];
      longest = Math.max(longest, Math.hypot(p[a] - p[b], p[a + 1] - p[b + 1], p[a + 2] - p[b + 2]));
    }
    const u = [p[v[1]] - p[v[0]], p[v[1] + 1] - p[v[0] + 1], p[v[1] + 2] - p[v[0] + 2]];
    const w = [p[v[2]] - p[v[0]], p[v[2] + 1] - p[v[0] + 1], p[v[2] + 2] - p[v[0] + 2]];
    const twice = Math.hypot(u[1] * w[2] - u[2] * w[1], u[2] * w[0] - u[0] * w[2], u[0] * w[1] - u[1] * w[0]);
    if (longest === 0 || twice / longest < NEEDLE_MM) out.add(mesh.triangleFace[t]);
  }
  return [...out];
}
