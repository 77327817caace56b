import type { AssetDocument } from '../pipeline/document';
import type { PartMesh } from '../pipeline/form';
import { drawnOpacity } from '../surface/material';
import { thumbnail } from './thumbnail';

/** The picture of an asset for cards and trials, portrait, in its parts' own materials. PNG with alpha. */
export function assetThumbnail(document: AssetDocument, parts: readonly PartMesh[]): Uint8Array {
  const materials = new Map(document.materials.map((m) => [m.id, m]));
  const chosen = new Map(document.parts.map((p) => [p.id, p.material]));
  return thumbnail(
    parts.map(({ id, mesh, placements }) => {
      const m = materials.get(chosen.get(id) ?? '');
      return {
        mesh,
        placements,
        colour: m?.colour ?? [0.72, 0.72, 0.7],
        metallic: m?.metallic ?? 0,
        opacity: m ? drawnOpacity(m) : 1,
        emissive: m?.emission ?? 0,
      };
    }),
    248,
    336,
  );
}
