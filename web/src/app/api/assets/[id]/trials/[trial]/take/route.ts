import type { Command } from '@wellmorph/core/pipeline/commands/index';
import type { Stage } from '@wellmorph/core/pipeline/results';
import { editAsset } from '@/server/db/assets';
import { snapshotOf } from '@/server/db/trials';
import { body, route } from '@/server/requests/route';
import { TakeRequest } from '@/server/requests/shapes';

/** Everything that a trial was made by becomes the asset's again, as one change. */
export const POST = route<{ id: string; trial: string }>(async (request, { id, trial }) => {
  const { baseVersion, clientId, seq, variant } = await body(request, TakeRequest);
  const { stage, title, document } = await snapshotOf(id, trial);
  // The light is kept with the picture it is for.
  const upTo = stage === 'light' ? 'render' : (stage as Stage);
  const take: Command = { type: 'state.take', stage: upTo, title, state: document };
  const command: Command = variant ? { type: 'variant.edit', variant, edit: take } : take;
  return Response.json(await editAsset(id, baseVersion, command, { clientId, seq }));
});
