import { parentPort, workerData } from 'node:worker_threads';
import { CancelledError, WellmorphError } from '@wellmorph/core/errors';
import { codecsFor } from '@wellmorph/core/node/codecs';
import { decodeParts } from '@wellmorph/core/pipeline/bundle';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { drawPicture, type SetFiles } from '@wellmorph/core/pipeline/render';
import { FilmKeep } from './film-keep';

export interface RenderAsk {
  document: AssetDocument;
  parts: Uint8Array;
  set: SetFiles;
  /** Where it keeps what it has done, and the name of what it does. */
  folder: string;
  name: string;
  /** Set to 1 to stop. */
  cancel: Int32Array;
}

/** One queued picture, in a thread of its own. */
async function draw({ document, parts, set, folder, name, cancel }: RenderAsk): Promise<void> {
  let last = 0;
  const keep = new FilmKeep(folder, name);
  const task = {
    cancelled: () => Atomics.load(cancel, 0) === 1,
    progress(share: number, words?: string) {
      if (performance.now() - last < 250) return;
      last = performance.now();
      parentPort?.postMessage({ share, words });
    },
  };
  try {
    await codecsFor(set.pictures?.values() ?? []);
    parentPort?.postMessage(await drawPicture(document, decodeParts(parts), set, () => performance.now() / 1000, task, keep));
  } finally {
    keep.close();
  }
}

draw(workerData as RenderAsk).catch((error) => {
  const known = error instanceof WellmorphError;
  parentPort?.postMessage({
    failed: known ? error.message : 'The picture stopped unexpectedly; nothing was changed.',
    stopped: error instanceof CancelledError,
  });
});
