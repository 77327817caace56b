import { isJpeg, isKtx2, isPng, isWebp } from '@wellmorph/core/io/head';
import { readBlob } from '@/server/blobs/store';
import { route } from '@/server/requests/route';

/** What a blob is, from its first bytes; anything else is only ever downloaded. */
function typeOf(bytes: Uint8Array): string {
  if (isPng(bytes)) return 'image/png';
  if (isJpeg(bytes)) return 'image/jpeg';
  if (isWebp(bytes)) return 'image/webp';
  if (isKtx2(bytes)) return 'image/ktx2';
  return 'application/octet-stream';
}

export const GET = route<{ hash: string }>(async (_request, { hash }) => {
  const bytes = await readBlob(hash);
  // A name made of the contents never changes its contents.
  return new Response(bytes, { headers: { 'Content-Type': typeOf(bytes), 'Cache-Control': 'private, max-age=31536000, immutable' } });
});
