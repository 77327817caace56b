import { triangleCount } from '../mesh/polymesh';
import type { AssetDocument } from '../pipeline/document';
import type { PartMesh } from '../pipeline/form';
import { surfaceLooks } from '../surface/layers/seen';
import { drawnOpacity } from '../surface/material';
import { thumbnail } from './thumbnail';

/** Larger ones are shown without their layers: what these are laid by takes longer than the picture. */
const MOST_TRIANGLES = 60_000;

/** The picture of an asset for cards and trials, portrait, in its parts' own materials and their layers. PNG with alpha. */
export function assetThumbnail(document: AssetDocument, parts: readonly PartMesh[]): Uint8Array {
  const materials = new Map(document.materials.map((m) => [m.id, m]));
  const chosen = new Map(document.parts.map((p) => [p.id, p.material]));
  const materialOf = (id: string) => materials.get(chosen.get(id) ?? '');
  const isSmall = parts.reduce((n, p) => n + triangleCount(p.mesh), 0) <= MOST_TRIANGLES;
  const looks = isSmall ? surfaceLooks(parts, materialOf, document.surface.seed) : null;
  return thumbnail(
    parts.map(({ id, mesh, placements }, i) => {
      const m = materialOf(id);
      const look = looks?.[i];
      return {
        mesh,
        placements,
        colour: m?.colour ?? [0.72, 0.72, 0.7],
        metallic: m?.metallic ?? 0,
        opacity: m ? drawnOpacity(m) : 1,
        emissive: m?.emission ?? 0,
        ...(look && { look }),
      };
    }),
    248,
    336,
  );
}
