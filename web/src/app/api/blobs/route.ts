import { keepBlob } from '@/server/blobs/store';
import { LARGEST_UPLOAD } from '@/server/import/limits';
import { bodyBytes, RequestError, route } from '@/server/requests/route';

const KINDS = ['mesh', 'parts', 'png', 'svg', 'exr', 'glb', 'zip', 'photo', 'artwork'];

export const POST = route(async (request) => {
  const kind = new URL(request.url).searchParams.get('kind') ?? '';
  if (!KINDS.includes(kind)) throw new RequestError(400, 'blob/kind', 'That is not a kind of file that is stored here.');
  const bytes = await bodyBytes(request, LARGEST_UPLOAD);
  if (bytes.length === 0) throw new RequestError(400, 'blob/empty', 'There is nothing in it.');
  return Response.json({ hash: await keepBlob(bytes, kind) }, { status: 201 });
});
