import { inputsOf, nameOf } from '@wellmorph/core/pipeline/results';
import { send } from './api';
import { type AssetSession, sentence } from './session';

const WORDS = {
  render: {
    changed: 'The piece was changed while its picture was got ready; put it in the queue again.',
    put: 'Put in the queue; it is drawn on the server, also when this page is closed.',
  },
  bake: {
    changed: 'The piece was changed while its bake was got ready; put it in the queue again.',
    put: 'Put in the queue; it is baked on the server, also when this page is closed.',
  },
};

/**
 * Puts a picture or a bake into the server’s queue. What it is made of is made first, so that the server makes just what was asked for.
 *
 * @returns whether it is in the queue
 */
export async function putInQueue(session: AssetSession, kind: 'render' | 'bake', forecastSeconds: number | null): Promise<boolean> {
  if (!session.document) return false;
  const made = await session.job(kind, async (run) => {
    for (const input of inputsOf(run.document, kind)) if (input) await session.stage(run, input);
    return nameOf(run.document, kind);
  });
  if (!made) return false;
  await session.lane.flushed();
  // The server takes the piece as it is stored: it has to be the one that was asked for.
  if (!session.document || nameOf(session.document, kind) !== made) {
    session.notify(WORDS[kind].changed, 'error');
    return false;
  }
  try {
    await send('POST', `/api/assets/${session.id}/jobs`, {
      baseVersion: session.version,
      kind,
      ...(session.document.as && { variant: session.document.as }),
      ...(forecastSeconds && { forecastSeconds: Math.round(forecastSeconds) }),
    });
    session.notify(WORDS[kind].put);
    return true;
  } catch (error) {
    session.notify(sentence(error), 'error');
    return false;
  }
}
