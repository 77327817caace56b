import { hashBytes } from '@wellmorph/core/hash';
import { encodeMesh } from '@wellmorph/core/mesh/codec';
import type { PolyMesh } from '@wellmorph/core/mesh/polymesh';

/** Meshes kept for the length of one command, named like blobs are. */
export function memoryStore(): { keep(mesh: PolyMesh): string; load(blob: string): PolyMesh } {
  const meshes = new Map<string, PolyMesh>();
  return {
    keep(mesh) {
      const name = hashBytes(encodeMesh(mesh));
      meshes.set(name, mesh);
      return name;
    },
    load(blob) {
      const mesh = meshes.get(blob);
      if (!mesh) throw new Error(`no mesh ${blob}`);
      return mesh;
    },
  };
}
