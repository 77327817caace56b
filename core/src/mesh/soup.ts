import { type PolyMesh, triangleCount } from './polymesh';

/** The triangles of a mesh as bare corners: 9 numbers each, mm. */
export function soupOf(mesh: PolyMesh): Float64Array {
  const out = new Float64Array(9 * triangleCount(mesh));
  for (let i = 0; i < mesh.triangles.length; i++) {
    const v = 3 * mesh.faceVert[mesh.triangles[i]];
    out[3 * i] = mesh.positions[v];
    out[3 * i + 1] = mesh.positions[v + 1];
    out[3 * i + 2] = mesh.positions[v + 2];
  }
  return out;
}

/** The way each triangle of a soup faces, 3 numbers, unit (nothing where it has no area), and its area, mm². */
export function facingOf(soup: ArrayLike<number>): { facing: Float32Array; area: Float32Array } {
  const n = soup.length / 9;
  const [facing, area] = [new Float32Array(3 * n), new Float32Array(n)];
  for (let t = 0; t < n; t++) {
    const o = 9 * t;
    const [ax, ay, az] = [soup[o + 3] - soup[o], soup[o + 4] - soup[o + 1], soup[o + 5] - soup[o + 2]];
    const [bx, by, bz] = [soup[o + 6] - soup[o], soup[o + 7] - soup[o + 1], soup[o + 8] - soup[o + 2]];
    const [x, y, z] = [ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx];
    const l = Math.hypot(x, y, z);
    area[t] = l / 2;
    if (l > 0) facing.set([x / l, y / l, z / l], 3 * t);
  }
  return { facing, area };
}
