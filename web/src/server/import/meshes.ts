import { InputError } from '@wellmorph/core/errors';
import { decodeMesh } from '@wellmorph/core/mesh/codec';
import type { PolyMesh } from '@wellmorph/core/mesh/polymesh';
import { kits } from '@wellmorph/core/node/kit';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { formAsset, type PartMesh } from '@wellmorph/core/pipeline/form';
import { readBlob } from '../blobs/store';

/** Every stored mesh a document refers to, opened. */
export async function openMeshes(document: AssetDocument): Promise<(blob: string) => PolyMesh> {
  const names = new Set<string>();
  for (const p of document.parts) {
    if (p.shape.kind === 'mesh') names.add(p.shape.low.blob);
    if (p.high) names.add(p.high.blob);
  }
  const open = new Map<string, PolyMesh>();
  for (const n of names) open.set(n, decodeMesh(await readBlob(n)));
  return (blob) => {
    const mesh = open.get(blob);
    if (!mesh) throw new InputError('blob/missing', 'A stored mesh is not there.');
    return mesh;
  };
}

/** The low parts as everywhere else, with the libraries that their steps need; what a step could not make is left out and said on the sheet. */
export const formedLow = async (document: AssetDocument): Promise<PartMesh[]> => {
  const { parts, aids } = formAsset(document, 'low', await openMeshes(document), undefined, await kits.best(document));
  return [...parts, ...aids];
};
