import { Worker } from 'node:worker_threads';
import { InputError } from '@wellmorph/core/errors';
import { picturesOfCame } from '@wellmorph/core/pipeline/came';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import type { RenderFigures, SetFiles } from '@wellmorph/core/pipeline/render';
import { drawnWithMaps, inputsOf, type Kept, nameOf, type StoredResult } from '@wellmorph/core/pipeline/results';
import { pictureTrial } from '@wellmorph/core/pipeline/trials';
import { keepBlob, readBlob } from '../blobs/store';
import type { Job } from '../db/jobs';
import { keepResult, resultNamed } from '../db/results';
import { folderOf, forget } from './checkpoint';
import type { RenderAsk } from './render.worker';
import { type Outcome, Stopped, type Working } from './working';

/** Draws a document’s picture and keeps it. What is drawn of it so far is on disk, so that one that was interrupted goes on from there. */
export async function renderJob(job: Job, working: Working): Promise<Outcome> {
  working.told(0, 'building the scene');
  try {
    const outcome = await picture(job, working);
    await forget(job.id);
    return outcome;
  } catch (error) {
    if (!working.paused()) await forget(job.id);
    throw error;
  }
}

async function picture(job: Job, working: Working): Promise<Outcome> {
  const made = await draw({ ...(await askFor(job.document, working.cancel)), folder: folderOf(job.id), name: job.resultName }, working);
  if ('failed' in made) throw made.stopped ? new Stopped() : new InputError('job/picture', made.failed);
  const png = await keepBlob(made.png, 'png');
  await keepResult({
    name: job.resultName,
    stage: 'render',
    inputs: inputsOf(job.document, 'render').map((kind) => kind && nameOf(job.document, kind)),
    figures: made.figures,
    blobs: { png },
  });
  return { trial: pictureTrial(job.document, made.figures), seconds: made.figures.seconds, thumbnail: png };
}

/** What the picture is made of: the results that its document names, and nothing else. */
async function askFor(document: AssetDocument, cancel: Int32Array): Promise<Omit<RenderAsk, 'folder' | 'name'>> {
  const of = async (kind: Kept): Promise<StoredResult> => {
    const found = await resultNamed(nameOf(document, kind));
    if (!found)
      throw new InputError('job/inputs', 'What this picture is made of is no longer stored; make it again and queue the picture anew.');
    return found;
  };
  const inputs = inputsOf(document, 'render');
  const withMaps = drawnWithMaps(document);
  const { parts } = (await of(withMaps ? 'unwrap' : 'form')).blobs;
  const surface = inputs.includes('surface') ? await of('surface') : undefined;
  const bake = inputs.includes('bake') ? await of('bake') : undefined;
  const take = async (hash: string | undefined) => (hash ? await readBlob(hash) : undefined);
  const set: SetFiles = {
    baseColour: await take(surface?.blobs.baseColour),
    orm: await take(surface?.blobs.orm),
    coat: await take(surface?.blobs.coat),
    clear: await take(surface?.blobs.clear),
    normal: await take(surface?.blobs.normal ?? bake?.blobs.glbNormal),
    ...(withMaps && { pictures: await picturesOfCame(document, readBlob) }),
  };
  return { document, parts: await readBlob(parts), set, cancel };
}

/** What draws: a thread of its own. Replaceable, for where sources are not bundled. */
export const drawing = {
  thread: (ask: RenderAsk): Worker => new Worker(new URL('./render.worker.ts', import.meta.url), { workerData: ask }),
};

type Drawn = { png: Uint8Array; figures: RenderFigures } | { failed: string; stopped: boolean };

function draw(ask: RenderAsk, working: Working): Promise<Drawn> {
  return new Promise((resolve, reject) => {
    const worker = drawing.thread(ask);
    worker.on('message', (m: { share: number; words: string } | Drawn) => {
      if ('share' in m) working.told(m.share, m.words);
      else {
        resolve(m);
        void worker.terminate();
      }
    });
    worker.once('error', reject);
    worker.once('exit', () => resolve({ failed: 'The thread that drew it ended; put it in the queue again.', stopped: false }));
  });
}
