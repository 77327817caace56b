import { parentPort, workerData } from 'node:worker_threads';
import { CancelledError, WellmorphError } from '@wellmorph/core/errors';
import { decodeParts } from '@wellmorph/core/pipeline/bundle';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { drawPicture, type SetFiles } from '@wellmorph/core/pipeline/render';

export interface RenderAsk {
  document: AssetDocument;
  parts: Uint8Array;
  set: SetFiles;
  /** Set to 1 to stop. */
  cancel: Int32Array;
}

/** One queued picture, in a thread of its own. */
async function draw({ document, parts, set, cancel }: RenderAsk): Promise<void> {
  let last = 0;
  const made = await drawPicture(document, decodeParts(parts), set, () => performance.now() / 1000, {
    cancelled: () => Atomics.load(cancel, 0) === 1,
    progress(share, words) {
      if (performance.now() - last < 250) return;
      last = performance.now();
      parentPort?.postMessage({ share, words });
    },
  });
  parentPort?.postMessage(made);
}

draw(workerData as RenderAsk).catch((error) => {
  const known = error instanceof WellmorphError;
  parentPort?.postMessage({
    failed: known ? error.message : 'The picture stopped unexpectedly; nothing was changed.',
    stopped: error instanceof CancelledError,
  });
});
