import { readBlob } from '@/server/blobs/store';
import { route } from '@/server/requests/route';

/** What a blob is, from its first bytes; anything else is only ever downloaded. */
function typeOf(bytes: Uint8Array): string {
  if (bytes[0] === 0x89 && bytes[1] === 0x50) return 'image/png';
  if (bytes[0] === 0xff && bytes[1] === 0xd8) return 'image/jpeg';
  return 'application/octet-stream';
}

export const GET = route<{ hash: string }>(async (_request, { hash }) => {
  const bytes = await readBlob(hash);
  // A name made of the contents never changes its contents.
  return new Response(bytes, { headers: { 'Content-Type': typeOf(bytes), 'Cache-Control': 'private, max-age=31536000, immutable' } });
});
