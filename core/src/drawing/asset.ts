import { srgbToLinear } from '../image/srgb';
import { triangleCount } from '../mesh/polymesh';
import type { AssetDocument } from '../pipeline/document';
import type { PartMesh } from '../pipeline/form';
import { layPrints, NO_PICTURES, openPrints, type PrintPictures, setPrints } from '../pipeline/printed';
import type { ArtworkReader } from '../print/open';
import { printedLook } from '../print/seen';
import { surfaceLooks } from '../surface/layers/seen';
import { drawnOpacity, type Material } from '../surface/material';
import { type SurfaceLook, thumbnail } from './thumbnail';

/** Size of the set that artworks are opened for, px. */
const CARD = 256;

/** Pictures of what is printed, for a card; none where one of them can’t be had: a card without its prints is better than none. */
export const cardPictures = (document: AssetDocument, parts: readonly PartMesh[], reader: ArtworkReader): Promise<PrintPictures> =>
  openPrints(document, parts, CARD, reader).catch(() => NO_PICTURES);

/** What a part looks like everywhere. */
function plainLook(m: Material | undefined): SurfaceLook {
  const colour = (m?.colour ?? [0.72, 0.72, 0.7]).map(srgbToLinear);
  return (_, __, ___, ____, out) => {
    out.set(colour);
    return m?.metallic ?? 0;
  };
}

/** Larger ones are shown without their layers: what these are laid by takes longer than the picture. */
const MOST_TRIANGLES = 60_000;

/**
 * The picture of an asset for cards and trials, portrait, in its parts' own materials, their layers and prints. PNG with alpha.
 *
 * @param pictures of what is printed, opened for these parts; without them they are shown plain
 */
export function assetThumbnail(document: AssetDocument, parts: readonly PartMesh[], pictures: PrintPictures = NO_PICTURES): Uint8Array {
  const materials = new Map(document.materials.map((m) => [m.id, m]));
  const chosen = new Map(document.parts.map((p) => [p.id, p.material]));
  const materialOf = (id: string) => materials.get(chosen.get(id) ?? '');
  const isSmall = parts.reduce((n, p) => n + triangleCount(p.mesh), 0) <= MOST_TRIANGLES;
  const looks = isSmall ? surfaceLooks(parts, materialOf, document.surface.seed) : null;
  const prints =
    pictures.size > 0
      ? layPrints(setPrints(document, parts, pictures, CARD), parts).flatMap((p) => (p.wrong === undefined ? [p.ready] : []))
      : [];
  return thumbnail(
    parts.map(({ id, mesh, placements }, i) => {
      const m = materialOf(id);
      const mine = prints.filter((p) => p.laid.print.part === id);
      const own = looks?.[i] ?? undefined;
      const look = mine.length > 0 ? printedLook(own ?? plainLook(m), mine) : own;
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
