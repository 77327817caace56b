import type { PolyMesh } from '@wellmorph/core/mesh/polymesh';

/** Meshes kept for the length of one command, by number: nothing outlives it that would have to be named by what it is. */
export function meshStore(): { keep(mesh: PolyMesh): string; load(blob: string): PolyMesh } {
  const meshes: PolyMesh[] = [];
  return {
    keep: (mesh) => String(meshes.push(mesh) - 1),
    load(blob) {
      const mesh = meshes[Number(blob)];
      if (!mesh) throw new Error(`no mesh ${blob}`);
      return mesh;
    },
  };
}
