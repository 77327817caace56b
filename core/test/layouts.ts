import { attribute, type PolyMesh, triangleCount } from '../src/mesh/polymesh';

/** Areas of a layout's triangles, negative where one lies face down. */
export function triangleAreas(mesh: PolyMesh): number[] {
  const uv = attribute(mesh, 'uv', 'corner')?.data ?? [];
  return Array.from({ length: triangleCount(mesh) }, (_, t) => {
    const [a, b, c] = [0, 1, 2].map((k) => 2 * mesh.triangles[3 * t + k]);
    return ((uv[b] - uv[a]) * (uv[c + 1] - uv[a + 1]) - (uv[b + 1] - uv[a + 1]) * (uv[c] - uv[a])) / 2;
  });
}
