import { InputError } from '@wellmorph/core/errors';
import { checkedDocument } from '@wellmorph/core/pipeline/checked-document';
import { mustExist } from '@/server/db/assets';
import { database } from '@/server/db/client';
import { touch } from '@/server/db/results';
import { addTrial, trialsOf } from '@/server/db/trials';
import { body, RequestError, route } from '@/server/requests/route';
import { TrialRequest } from '@/server/requests/shapes';

export const dynamic = 'force-dynamic';

export const GET = route<{ id: string }>(async (_request, { id }) => {
  await mustExist(id);
  return Response.json(await trialsOf(id));
});

export const POST = route<{ id: string }>(async (request, { id }) => {
  const trial = await body(request, TrialRequest);
  await mustExist(id);
  if (trial.thumbnail && !(await touch(await database(), [trial.thumbnail])))
    throw new RequestError(400, 'request/blob', 'The picture of this trial is not stored here.');
  // It can become the asset's own state again, so it is looked over as a file would be.
  const snapshot =
    trial.snapshot && checkedDocument(trial.snapshot, (why) => new InputError('trial/snapshot', `The trial’s state is no asset: ${why}.`));
  return Response.json(await addTrial(id, { ...trial, snapshot, thumbnail: trial.thumbnail ?? null }), { status: 201 });
});
