import { type PolyMesh, triangleCount } from '../../mesh/polymesh';

/** A triangle lower than this over its longest side is a needle that shades wrong, mm. */
export const NEEDLE_MM = 1e-4;

/** Faces with a triangle of no area, or so thin that rounding decides which way it faces. */
export function degenerateFaces(mesh: PolyMesh): number[] {
  const out = new Set<number>();
  const p = mesh.positions;
  const at = (t: number, k: number) => 3 * mesh.faceVert[mesh.triangles[3 * t + k]];
  for (let t = 0; t < triangleCount(mesh); t++) {
    const a = at(t, 0);
    const b = at(t, 1);
    const c = at(t, 2);
    const ux = p[b] - p[a];
    const uy = p[b + 1] - p[a + 1];
    const uz = p[b + 2] - p[a + 2];
    const vx = p[c] - p[a];
    const vy = p[c + 1] - p[a + 1];
    const vz = p[c + 2] - p[a + 2];
    const wx = vx - ux;
    const wy = vy - uy;
    const wz = vz - uz;
    const longest = Math.sqrt(Math.max(ux * ux + uy * uy + uz * uz, vx * vx + vy * vy + vz * vz, wx * wx + wy * wy + wz * wz));
    const nx = uy * vz - uz * vy;
    const ny = uz * vx - ux * vz;
    const nz = ux * vy - uy * vx;
    const twice = Math.sqrt(nx * nx + ny * ny + nz * nz);
    if (longest === 0 || twice / longest < NEEDLE_MM) out.add(mesh.triangleFace[t]);
  }
  return [...out];
}
