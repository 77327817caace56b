import type { Artwork } from '@wellmorph/core/print/print';
import type { Files } from '@/workers/protocol';
import type { BlobCache } from './blobs';

/** Files of artworks, in memory that workers see as well. */
export async function artworkFiles(artworks: readonly Artwork[], blobs: BlobCache): Promise<Files> {
  const names = artworks.flatMap((a) => (a.kind === 'picture' ? [a.blob] : []));
  return Object.fromEntries(await Promise.all([...new Set(names)].map(async (name) => [name, await blobs.shared(name)])));
}
