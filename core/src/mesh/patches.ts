import { edgesOf, edgeValence, Groups } from './connectivity';
import { triangleArea } from './measures';
import { hardEdges } from './normals';
import { attribute, faceCount, type PolyMesh, triangleCount, withAttribute } from './polymesh';

/**
 * Gives a mesh that came without patches some of its own: connected, smooth regions of its surface, largest first, called
 * `surface 1`, `surface 2` … A mesh that has patches keeps them.
 *
 * @param degrees edges sharper than this, marked hard or open bound a region
 */
export function smoothPatches(mesh: PolyMesh, degrees: number): PolyMesh {
  if (attribute(mesh, 'patch', 'face')) return mesh;
  const edges = edgesOf(mesh);
  const hard = hardEdges(mesh, { hardAngle: degrees }, edges);
  const groups = new Groups(faceCount(mesh));
  for (let e = 0; e < edges.count; e++) {
    if (hard[e] || edgeValence(edges, e) !== 2) continue;
    groups.join(edges.faceOf[edges.corners[edges.start[e]]], edges.faceOf[edges.corners[edges.start[e] + 1]]);
  }
  const area = new Map<number, number>();
  for (let t = 0; t < triangleCount(mesh); t++) {
    const root = groups.find(mesh.triangleFace[t]);
    area.set(root, (area.get(root) ?? 0) + triangleArea(mesh, t));
  }
  // Largest first; equal ones by their first face, so that the same file always gives the same names.
  const order = [...area.keys()].sort((a, b) => (area.get(b) ?? 0) - (area.get(a) ?? 0) || a - b);
  const number = new Map(order.map((root, i) => [root, i]));
  const data = Uint32Array.from({ length: faceCount(mesh) }, (_, f) => number.get(groups.find(f)) ?? 0);
  return { ...withAttribute(mesh, { name: 'patch', domain: 'face', size: 1, data }), patches: order.map((_, i) => `surface ${i + 1}`) };
}
