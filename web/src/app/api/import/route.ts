import { isAssetFile } from '@wellmorph/core/pipeline/asset-file';
import { importAsset, importAssetFile } from '@/server/import/import';
import { withUpload } from '@/server/import/upload';
import { route } from '@/server/requests/route';

/** A model, or an asset file, as a new asset. */
export const POST = route(async (request) => {
  const made = await withUpload(request, (upload) => (isAssetFile(upload.fileName) ? importAssetFile(upload) : importAsset(upload)));
  return Response.json(made, { status: 201 });
});
