import { fillTriangle } from '../image/raster';
import type { PolyMesh } from '../mesh/polymesh';

/**
 * Every texel whose centre lies in a triangle of a layout, on a raster of `size` × `size` with v up: row 0 is the top of the tile.
 *
 * @param uv two numbers a corner, 0 … 1 over the tile
 */
export function texelsOfTriangle(
  mesh: PolyMesh,
  uv: ArrayLike<number>,
  t: number,
  size: number,
  put: (x: number, y: number) => void,
): void {
  const a = 2 * mesh.triangles[3 * t];
  const b = 2 * mesh.triangles[3 * t + 1];
  const c = 2 * mesh.triangles[3 * t + 2];
  const [ax, ay] = [uv[a] * size, (1 - uv[a + 1]) * size];
  const [bx, by] = [uv[b] * size, (1 - uv[b + 1]) * size];
  fillTriangle(ax, ay, bx, by, uv[c] * size, (1 - uv[c + 1]) * size, size, size, put);
}

/** Area of a triangle in the layout, as a share of the tile; negative where it lies face down. */
export function areaInLayout(mesh: PolyMesh, uv: ArrayLike<number>, t: number): number {
  const a = 2 * mesh.triangles[3 * t];
  const b = 2 * mesh.triangles[3 * t + 1];
  const c = 2 * mesh.triangles[3 * t + 2];
  return ((uv[b] - uv[a]) * (uv[c + 1] - uv[a + 1]) - (uv[b + 1] - uv[a + 1]) * (uv[c] - uv[a])) / 2;
}
