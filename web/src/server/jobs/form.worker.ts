import { parentPort } from 'node:worker_threads';
import { decodeMesh } from '@wellmorph/core/mesh/codec';
import { kits } from '@wellmorph/core/node/kit';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { makeWhole, type Whole } from '@wellmorph/core/pipeline/whole';

export interface FormAsk {
  document: AssetDocument;
  /** Stored meshes it refers to, by name. */
  meshes: Record<string, Uint8Array>;
  /** Stored artwork that is printed on it, by name. */
  artworks: Record<string, Uint8Array>;
}
export type FormAnswer = { whole: Whole } | { failed: string };

/** Forms one piece after the other, in a thread of its own. */
parentPort?.on('message', async ({ document, meshes, artworks }: FormAsk) => {
  let answer: FormAnswer;
  try {
    const kit = await kits.for(document);
    answer = {
      whole: await makeWhole(
        document,
        (blob) => decodeMesh(meshes[blob]),
        kit,
        'form',
        () => performance.now() / 1000,
        undefined,
        (blob) => artworks[blob],
      ),
    };
  } catch (error) {
    answer = { failed: error instanceof Error ? error.message : String(error) };
  }
  parentPort?.postMessage(answer);
});
