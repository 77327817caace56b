import { hashBytes } from '@wellmorph/core/hash';
import type { PolyMesh } from '@wellmorph/core/mesh/polymesh';

/** Meshes and pictures kept for the length of one command: meshes by number, as nothing outlives it that would have to be named by what it is. */
export function meshStore(): {
  keep(mesh: PolyMesh): string;
  load(blob: string): PolyMesh;
  keepPicture(bytes: Uint8Array): string;
  picture(blob: string): Uint8Array;
} {
  const meshes: PolyMesh[] = [];
  const pictures = new Map<string, Uint8Array>();
  return {
    keep: (mesh) => String(meshes.push(mesh) - 1),
    load(blob) {
      const mesh = meshes[Number(blob)];
      if (!mesh) throw new Error(`no mesh ${blob}`);
      return mesh;
    },
    keepPicture(bytes) {
      const name = hashBytes(bytes);
      pictures.set(name, bytes);
      return name;
    },
    picture(blob) {
      const bytes = pictures.get(blob);
      if (!bytes) throw new Error(`no picture ${blob}`);
      return bytes;
    },
  };
}
