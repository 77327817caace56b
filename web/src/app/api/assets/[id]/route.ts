import { assetState, setDeleted } from '@/server/db/assets';
import { resultsOf } from '@/server/db/results';
import { trialsOf } from '@/server/db/trials';
import { body, route } from '@/server/requests/route';
import { AssetPatchRequest } from '@/server/requests/shapes';

export const dynamic = 'force-dynamic';
type P = { id: string };

export const GET = route<P>(async (_request, { id }) => {
  const state = await assetState(id);
  const [results, trials] = await Promise.all([resultsOf(id, state.document), trialsOf(id)]);
  return Response.json({ ...state, results, trials });
});

export const PATCH = route<P>(async (request, { id }) => {
  const { deleted } = await body(request, AssetPatchRequest);
  await setDeleted(id, deleted);
  return Response.json({ id, deleted });
});
