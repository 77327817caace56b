import { assetThumbnail, cardPictures } from '@wellmorph/core/drawing/asset';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import type { PartMesh } from '@wellmorph/core/pipeline/form';
import { bytes } from './handlers';
import { kits } from './kit';
import type { Bytes, Files } from './protocol';

/** A piece as its card shows it, PNG; null where it has no parts. What is drawn with is loaded already. @param files of its artworks */
export async function drawnCard(document: AssetDocument, parts: readonly PartMesh[], files: Files = {}): Promise<Bytes | null> {
  if (parts.length === 0) return null;
  const pictures = await cardPictures(document, parts, { kit: kits.loaded, read: (blob) => files[blob] });
  return bytes(assetThumbnail(document, parts, pictures));
}
