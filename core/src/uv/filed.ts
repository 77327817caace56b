import { attribute, faceCount, type PolyMesh, triangleCount, withAttribute } from '../mesh/polymesh';
import { UNLAID } from '../mesh/rework';
import type { Flattened } from './charts';
import { filedIslands } from './keep';
import type { FixedPlace } from './pack/pack';
import { StretchSum } from './stretch';

/** What a file's own layout gives the layout to be made. */
interface FiledLayout {
  /** To be laid flat: its islands are laid already where the file's are kept. */
  mesh: PolyMesh;
  /** The file's islands at their true size, and where they lie; where that is there nothing is left to do. */
  as?: { laid: Flattened; lies: FixedPlace[] };
}

/**
 * A mesh with what is to be made of the layout it brought. Where seams were drawn by hand or regions stand out, a kept one is cut there and
 * packed again, as it can't stay as it lies.
 *
 * @param apart regions of it have weights of their own
 * @param how as in the document; `mended` lays islands anew whose stretch (L², at their own scale) is over the limit
 */
export function filedLayout(mesh: PolyMesh, how: 'kept' | 'packed' | 'mended' | 'anew', limit: number, apart = false): FiledLayout {
  const filed = how === 'anew' || attribute(mesh, 'chart', 'face') ? null : filedIslands(mesh);
  if (!filed) return { mesh };
  const { islands, lies } = filed;
  const island = attribute(filed.mesh, 'chart', 'face')?.data as Int32Array;
  const flat = attribute(filed.mesh, 'flat', 'corner')?.data as Float64Array;
  const touched = apart || ['seam', 'joined'].some((name) => attribute(mesh, name, 'corner'));
  if (how === 'kept' && !touched) return { mesh, as: { laid: { island, flat, islands, method: new Array(islands).fill('kept') }, lies } };
  return { mesh: how === 'mended' ? withoutStretched(filed.mesh, island, islands, limit) : filed.mesh };
}

/** The islands that are stretched too far, or folded, are left to be laid. */
function withoutStretched(mesh: PolyMesh, island: Int32Array, islands: number, limit: number): PolyMesh {
  const flat = attribute(mesh, 'flat', 'corner')?.data as Float64Array;
  const sums = Array.from({ length: islands }, () => new StretchSum());
  const folded = new Uint8Array(islands);
  for (let t = 0; t < triangleCount(mesh); t++) {
    const corners = [0, 1, 2].map((k) => mesh.triangles[3 * t + k]);
    const [a, b, c] = corners.map((k) => [flat[2 * k], flat[2 * k + 1]]);
    const i = island[mesh.triangleFace[t]];
    if ((b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]) < 0) folded[i] = 1;
    sums[i].add(
      corners.flatMap((k) => [0, 1, 2].map((x) => mesh.positions[3 * mesh.faceVert[k] + x])),
      [...a, ...b, ...c],
    );
  }
  const left = sums.map((s, i) => folded[i] === 1 || s.l2 > limit);
  const data = Int32Array.from({ length: faceCount(mesh) }, (_, f) => (left[island[f]] ? UNLAID : island[f]));
  return withAttribute(mesh, { name: 'chart', domain: 'face', size: 1, data });
}
