import { UseRunRequest } from '@/server/requests/logbook';
import { body, route } from '@/server/requests/route';
import { useRunOn } from '@/server/use-run';

/** Sets a piece as a run was set: its own piece to the same bytes, another one as its size asks for. */
export const POST = route<{ run: string }>(async (request, { run }) => {
  const { asset, baseVersion, clientId, seq, variant, other } = await body(request, UseRunRequest);
  return Response.json(await useRunOn(run, asset, baseVersion, { clientId, seq }, { variant, other }));
});
