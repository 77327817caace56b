import { isAssetFile } from '@wellmorph/core/pipeline/asset-file';
import { importAsset, importAssetFile } from '@/server/import/import';
import { uploadOf } from '@/server/import/upload';
import { route } from '@/server/requests/route';

/** A model, or an asset file, as a new asset. */
export const POST = route(async (request) => {
  const upload = await uploadOf(request);
  return Response.json(await (isAssetFile(upload.fileName) ? importAssetFile(upload) : importAsset(upload)), { status: 201 });
});
