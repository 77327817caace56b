import { briefFor } from '@wellmorph/core/brief/brief';
import { newDocument } from '@wellmorph/core/pipeline/document';
import { createAsset } from '@/server/db/assets';
import { body, route } from '@/server/requests/route';
import { NewAssetRequest } from '@/server/requests/shapes';
import { workshopCards } from '@/server/workshop';

export const dynamic = 'force-dynamic';

export const GET = route(async () => Response.json(await workshopCards()));

export const POST = route(async (request) => {
  const { name, purpose } = await body(request, NewAssetRequest);
  return Response.json({ id: await createAsset(newDocument(name.trim(), briefFor(purpose))) }, { status: 201 });
});
