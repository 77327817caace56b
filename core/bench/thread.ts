import { parentPort, Worker, workerData } from 'node:worker_threads';
import { BandBaker } from '../src/bake/cast';
import { emptyTexels, type Texels } from '../src/bake/texels';
import { type PreparedBake, prepareBake } from '../src/pipeline/bake';
import type { AssetDocument } from '../src/pipeline/document';
import type { PartMesh } from '../src/pipeline/form';
import { finishSet, prepareSet, SetComposer, type SetJob, stripsOf } from '../src/pipeline/surface';
import { takeLane } from '../src/rays/kernel/lanes';
import { RayQuery } from '../src/rays/query';
import { sharedRoom } from '../src/rays/tree';
import type { Counts } from '../src/surface/compose';

/** What a thread is handed. */
interface About {
  lane: number;
  prepared: PreparedBake['prepared'];
  texels: Texels;
  /** The next band to be baked, and how many threads are ready. */
  next: Int32Array;
}

/** What a thread that composes is handed. */
interface Composes {
  job: SetJob;
  next: Int32Array;
}

/** Composes strips as they come, from the moment it is told to. */
function composing({ job, next }: Composes): void {
  const composer = new SetComposer(job);
  const strips = stripsOf(job.set.size);
  parentPort?.postMessage('ready');
  parentPort?.once('message', () => {
    const counted: [number, Counts][] = [];
    for (let strip = Atomics.add(next, 0, 1); strip < strips; strip = Atomics.add(next, 0, 1)) counted.push([strip, composer.draw(strip)]);
    parentPort?.postMessage(counted);
    parentPort?.close();
  });
}

/** A set by so many threads, as the browser makes it: the ground laid on this one, strips by all, finished on this one. @returns seconds from the first to the last */
export async function composedBy(threads: number, document: AssetDocument, laid: readonly PartMesh[], size: number): Promise<number> {
  const start = performance.now();
  const job = prepareSet(document, laid, {}, size, undefined, (n) => new SharedArrayBuffer(n));
  const next = new Int32Array(new SharedArrayBuffer(4));
  const began = performance.now();
  const workers = Array.from(
    { length: threads },
    () => new Worker(new URL(import.meta.url), { workerData: { job, next } satisfies Composes }),
  );
  const heard = <T>() => Promise.all(workers.map((w) => new Promise<T>((ok, no) => w.once('message', ok).once('error', no))));
  await heard();
  // A worker that is there already isn’t started anew for every set.
  const waited = performance.now() - began;
  const done = heard<[number, Counts][]>();
  for (const w of workers) w.postMessage('go');
  const strips: Counts[] = [];
  for (const [strip, counts] of (await done).flat()) strips[strip] = counts;
  finishSet(job, strips, {}, () => 0);
  return (performance.now() - start - waited) / 1000;
}

/** Bakes bands as they come, from the moment it is told to. */
export function thread(): void {
  if ('job' in workerData) {
    composing(workerData as Composes);
    return;
  }
  const { lane, prepared, texels, next } = workerData as About;
  takeLane(lane);
  const baker = new BandBaker(prepared, texels);
  parentPort?.postMessage('ready');
  parentPort?.once('message', () => {
    for (let band = Atomics.add(next, 0, 1); band < baker.bands; band = Atomics.add(next, 0, 1)) baker.bake(band);
    parentPort?.postMessage('done');
    parentPort?.close();
  });
}

/** Seconds that so many threads, ready and waiting, take to cast all rays of a bake. @param texels take what they find; their counts stay at nothing */
export async function castBy(
  threads: number,
  prepared: PreparedBake['prepared'],
  texels: Texels = emptyTexels(prepared, (n) => new SharedArrayBuffer(n)),
): Promise<number> {
  const next = new Int32Array(new SharedArrayBuffer(4));
  const workers = Array.from(
    { length: threads },
    (_, i) => new Worker(new URL(import.meta.url), { workerData: { lane: i + 1, prepared, texels, next } satisfies About }),
  );
  const heard = () => Promise.all(workers.map((w) => new Promise<void>((ok, no) => w.once('message', () => ok()).once('error', no))));
  await heard();
  const start = performance.now();
  const done = heard();
  for (const w of workers) w.postMessage('go');
  await done;
  return (performance.now() - start) / 1000;
}

/** A bake prepared where threads can share it. */
export const sharedBake = (
  ...about: Parameters<typeof prepareBake> extends [infer A, infer B, infer C, infer D, ...unknown[]] ? [A, B, C, D] : never
) => prepareBake(...about, undefined, sharedRoom());

/** The share of one thread’s time that goes into rays while it casts, every sixteenth call timed. */
export function shareInRays(prepared: PreparedBake['prepared']): number {
  const asked = RayQuery.prototype as unknown as Record<string, (...a: unknown[]) => unknown>;
  const names = ['closest', 'any', 'follow'] as const;
  const kept = names.map((n) => asked[n]);
  let [inRays, calls] = [0, 0];
  for (const [i, name] of names.entries()) {
    const own = kept[i];
    const each = name === 'follow' ? 1 : 16;
    asked[name] = function (this: unknown, ...a: unknown[]) {
      if (calls++ % each !== 0) return own.apply(this, a);
      const start = performance.now();
      const answer = own.apply(this, a);
      inRays += each * (performance.now() - start);
      return answer;
    };
  }
  const start = performance.now();
  const texels = emptyTexels(prepared);
  const baker = new BandBaker(prepared, texels);
  for (let b = 0; b < baker.bands; b++) baker.bake(b);
  const whole = performance.now() - start;
  for (const [i, name] of names.entries()) asked[name] = kept[i];
  return inRays / whole;
}
