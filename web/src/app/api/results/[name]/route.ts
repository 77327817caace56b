import { keepResult } from '@/server/db/results';
import { body, RequestError, route } from '@/server/requests/route';
import { ResultRequest } from '@/server/requests/shapes';

const NAME = /^[0-9a-f]{64}$/;

/** Keeps a result under its name, unless one is there already; answers with the one that stands. */
export const PUT = route<{ name: string }>(async (request, { name }) => {
  if (!NAME.test(name)) throw new RequestError(404, 'result/name', 'That is not the name of a result.');
  const { stage, inputs, figures, blobs } = await body(request, ResultRequest);
  if (inputs.some((i) => i !== null && !(typeof i === 'string' && NAME.test(i))))
    throw new RequestError(400, 'result/inputs', 'A result stands on results with names, or on none.');
  if (Object.values(blobs).some((b) => typeof b !== 'string' || !NAME.test(b)))
    throw new RequestError(400, 'result/blob', 'A file this result refers to is not stored here.');
  return Response.json(await keepResult({ name, stage, inputs, figures, blobs }));
});
