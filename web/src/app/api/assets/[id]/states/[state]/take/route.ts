import { editAsset } from '@/server/db/assets';
import { stateNamed } from '@/server/db/states';
import { body, route } from '@/server/requests/route';
import { TakeRequest } from '@/server/requests/shapes';

/** The piece becomes what it was when the state was named, as one change. */
export const POST = route<{ id: string; state: string }>(async (request, { id, state }) => {
  const { baseVersion, clientId, seq } = await body(request, TakeRequest);
  const { name, document } = await stateNamed(id, state);
  return Response.json(
    await editAsset(id, baseVersion, { type: 'state.take', stage: 'render', title: name, state: document, whole: true }, { clientId, seq }),
  );
});
