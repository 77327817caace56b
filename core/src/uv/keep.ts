import { edgesOf, edgeValence, Groups } from '../mesh/connectivity';
import { attribute, cornerCount, faceCount, type PolyMesh, triangleCount, withAttribute } from '../mesh/polymesh';
import type { FixedPlace } from './pack/pack';

/** Corners lie in one place of a layout when they are this near, shares of the tile. */
const ONE_PLACE = 1e-6;

/** The islands of a layout that a mesh brought: it with them at their true size (`chart`, face; `flat`, corner, mm), and where each lies. */
interface FiledIslands {
  mesh: PolyMesh;
  islands: number;
  lies: FixedPlace[];
}

/**
 * The layout a mesh has, made ready to be packed anew: its islands as they are cut, each at its true size and none of them mirrored
 * (`chart`, face; `flat`, corner, mm). What has no area in the layout, or none in space, keeps the scale of the layout's tile.
 *
 * @returns the mesh as it was where it has no layout
 */
export const keptIslands = (mesh: PolyMesh): PolyMesh => filedIslands(mesh)?.mesh ?? mesh;

/** The same, and where the islands lie; null where it has no layout. */
export function filedIslands(mesh: PolyMesh): FiledIslands | null {
  const uv = attribute(mesh, 'uv', 'corner')?.data;
  if (!uv) return null;
  const edges = edgesOf(mesh);
  const groups = new Groups(faceCount(mesh));
  const beside = (c: number, d: number): boolean => Math.abs(uv[2 * c] - uv[2 * d]) + Math.abs(uv[2 * c + 1] - uv[2 * d + 1]) < ONE_PLACE;
  for (let e = 0; e < edges.count; e++) {
    if (edgeValence(edges, e) !== 2) continue;
    const [a, b] = [edges.corners[edges.start[e]], edges.corners[edges.start[e] + 1]];
    // Twins run opposite ways: a starts where b ends.
    if (beside(a, edges.next[b]) && beside(edges.next[a], b)) groups.join(edges.faceOf[a], edges.faceOf[b]);
  }
  const numbers = new Map<number, number>();
  const chart = Int32Array.from({ length: faceCount(mesh) }, (_, f) => {
    const root = groups.find(f);
    if (!numbers.has(root)) numbers.set(root, numbers.size);
    return numbers.get(root) as number;
  });
  const [space, laid] = [new Float64Array(numbers.size), new Float64Array(numbers.size)];
  const p = mesh.positions;
  for (let t = 0; t < triangleCount(mesh); t++) {
    const [a, b, c] = [0, 1, 2].map((k) => mesh.triangles[3 * t + k]);
    const [i, j, k] = [a, b, c].map((corner) => 3 * mesh.faceVert[corner]);
    const [ux, uy, uz] = [p[j] - p[i], p[j + 1] - p[i + 1], p[j + 2] - p[i + 2]];
    const [vx, vy, vz] = [p[k] - p[i], p[k + 1] - p[i + 1], p[k + 2] - p[i + 2]];
    const island = chart[mesh.triangleFace[t]];
    space[island] += Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx) / 2;
    laid[island] +=
      ((uv[2 * b] - uv[2 * a]) * (uv[2 * c + 1] - uv[2 * a + 1]) - (uv[2 * b + 1] - uv[2 * a + 1]) * (uv[2 * c] - uv[2 * a])) / 2;
  }
  const scale = Float64Array.from(space, (mm2, i) => (Math.abs(laid[i]) > 1e-14 && mm2 > 0 ? Math.sqrt(mm2 / Math.abs(laid[i])) : 1));
  const flat = new Float64Array(2 * cornerCount(mesh));
  for (let f = 0; f < faceCount(mesh); f++) {
    const island = chart[f];
    const [across, up] = [laid[island] < 0 ? -scale[island] : scale[island], scale[island]];
    for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
      flat[2 * c] = across * uv[2 * c];
      flat[2 * c + 1] = up * uv[2 * c + 1];
    }
  }
  const charted = withAttribute(mesh, { name: 'chart', domain: 'face', size: 1, data: chart });
  return {
    mesh: withAttribute(charted, { name: 'flat', domain: 'corner', size: 2, data: flat }),
    islands: scale.length,
    lies: Array.from(scale, (k, i) => ({ angle: 0, x: 0, y: 0, scale: 1 / k, ...(laid[i] < 0 && { mirrored: true }) })),
  };
}
