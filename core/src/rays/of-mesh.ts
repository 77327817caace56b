import type { PolyMesh } from '../mesh/polymesh';
import { soupOf } from '../mesh/soup';
import { buildTree, type RayTree } from './tree';

/** Trees of meshes that are kept at most, bytes. */
const KEPT = 64e6;

const known = new WeakMap<PolyMesh, RayTree>();
/** Those that are kept, asked for last at the end. */
let recent: { mesh: PolyMesh; bytes: number }[] = [];

/**
 * The tree over a mesh's triangles, built once for all that ask in turn: what is looked for in a mesh mostly comes one question after the
 * other. The least lately asked ones are forgotten.
 */
export function meshTree(mesh: PolyMesh): RayTree {
  const found = known.get(mesh);
  const tree = found ?? buildTree(soupOf(mesh));
  const bytes = tree.nodes.byteLength + tree.packs.byteLength;
  if (bytes > KEPT) return tree;
  known.set(mesh, tree);
  recent = [...recent.filter((r) => r.mesh !== mesh), { mesh, bytes }];
  let sum = recent.reduce((n, r) => n + r.bytes, 0);
  while (sum > KEPT) {
    const [oldest] = recent.splice(0, 1);
    known.delete(oldest.mesh);
    sum -= oldest.bytes;
  }
  return tree;
}
