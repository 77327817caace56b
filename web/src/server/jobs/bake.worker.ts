import { parentPort, workerData } from 'node:worker_threads';
import { type Counts, noCounts } from '@wellmorph/core/bake/bands';
import { BandBaker } from '@wellmorph/core/bake/cast';
import { emptyTexels, type Texels } from '@wellmorph/core/bake/texels';
import { CancelledError, WellmorphError } from '@wellmorph/core/errors';
import { decodeMesh } from '@wellmorph/core/mesh/codec';
import { kits } from '@wellmorph/core/node/kit';
import { aboutParts, type BakeResult, bakeSettings, type PreparedBake, prepareBake } from '@wellmorph/core/pipeline/bake';
import { finishBake } from '@wellmorph/core/pipeline/bake-finish';
import { decodeParts } from '@wellmorph/core/pipeline/bundle';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { formAsset } from '@wellmorph/core/pipeline/form';
import { takeLane } from '@wellmorph/core/rays/kernel/lanes';
import { sharedRoom } from '@wellmorph/core/rays/tree';
import type { Task } from '@wellmorph/core/task';

/** What the thread is for that prepares a bake and finishes it. */
export interface LeadAsk {
  role: 'lead';
  /** Without labels. */
  document: AssetDocument;
  laid: Uint8Array;
  /** Stored meshes it refers to, by name. */
  meshes: Record<string, Uint8Array>;
  /** Set to 1 to stop. */
  cancel: Int32Array;
}
/** What each of those is for that cast rays, a band at a time. */
export interface BandsAsk {
  role: 'bands';
  lane: number;
  prepared: PreparedBake['prepared'];
  texels: Texels;
}
export type LeadAnswer =
  | { type: 'progress'; share: number; words: string }
  | { type: 'prepared'; bake: PreparedBake; texels: Texels }
  | { type: 'finished'; result: BakeResult }
  | { type: 'failed'; failed: string; stopped: boolean };
export type BandAnswer = { band: number; counts: Counts };

const ask = workerData as LeadAsk | BandsAsk;
const port = parentPort;

async function lead({ document, laid, meshes, cancel }: LeadAsk): Promise<void> {
  let last = 0;
  const tell = (answer: LeadAnswer) => port?.postMessage(answer);
  const task: Task = {
    cancelled: () => Atomics.load(cancel, 0) === 1,
    progress(share, words = '') {
      if (performance.now() - last < 250) return;
      last = performance.now();
      tell({ type: 'progress', share, words });
    },
  };
  const low = decodeParts(laid);
  const load = (blob: string) => decodeMesh(meshes[blob]);
  const { parts: high, problems } = formAsset(document, 'high', load, undefined, await kits.for(document));
  if (problems.length > 0) throw new WellmorphError('bake/high', `The high mesh isn’t whole: ${problems[0].message}`);
  const room = sharedRoom();
  const settings = bakeSettings(document);
  const bake = prepareBake(low, high, aboutParts(document), settings, task, room);
  const texels = emptyTexels(bake.prepared, room);
  tell({ type: 'prepared', bake, texels });
  port?.once('message', ({ counts, seconds }: { counts: Counts; seconds: number }) => {
    texels.counts = counts;
    finishBake(bake, texels, settings, low, seconds, task)
      .then((result) => tell({ type: 'finished', result }))
      .catch(fail);
  });
}

function bands({ lane, prepared, texels }: BandsAsk): void {
  takeLane(lane);
  const baker = new BandBaker(prepared, texels);
  port?.on('message', (band: number) => {
    texels.counts = noCounts(prepared.pairs.length);
    baker.bake(band);
    port?.postMessage({ band, counts: texels.counts } satisfies BandAnswer);
  });
}

function fail(error: unknown): void {
  const known = error instanceof WellmorphError;
  if (!known) console.error(error);
  port?.postMessage({
    type: 'failed',
    failed: known ? error.message : 'The bake stopped unexpectedly; nothing was changed.',
    stopped: error instanceof CancelledError,
  } satisfies LeadAnswer);
}

if (ask.role === 'lead') lead(ask).catch(fail);
else bands(ask);
