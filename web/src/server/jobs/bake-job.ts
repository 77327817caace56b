import { availableParallelism } from 'node:os';
import { Worker } from 'node:worker_threads';
import { addCounts, BAND, noCounts } from '@wellmorph/core/bake/bands';
import { InputError } from '@wellmorph/core/errors';
import { type BakeResult, bakeFiles } from '@wellmorph/core/pipeline/bake';
import { labelledText, unlabelled } from '@wellmorph/core/pipeline/labels';
import { inputsOf, nameOf } from '@wellmorph/core/pipeline/results';
import { blobsOf } from '@wellmorph/core/pipeline/stored';
import { bakeTrial } from '@wellmorph/core/pipeline/trials';
import { keepBlob, readBlob } from '../blobs/store';
import type { Job } from '../db/jobs';
import { keepResult, resultNamed } from '../db/results';
import type { BandAnswer, BandsAsk, LeadAnswer, LeadAsk } from './bake.worker';
import { Checkpoint, forget } from './checkpoint';
import { type Outcome, Stopped, type Working } from './working';

/** The threads of a bake. Replaceable, for where sources are not bundled. */
export const baking = {
  thread: (ask: LeadAsk | BandsAsk): Worker => new Worker(new URL('./bake.worker.ts', import.meta.url), { workerData: ask }),
  /** How many cast rays. */
  threads: (): number => Math.max(1, Math.min(8, availableParallelism())),
};

/** Shares of the whole that preparing and casting take, about. */
const PREPARED = 0.15;
const CAST = 0.9;
/** A band is given to another thread this often before it is given up. */
const TRIES = 2;

/**
 * Bakes a document’s maps: one thread prepares and finishes, the others cast rays a band at a time, and every finished band is kept on disk,
 * so that a bake that was interrupted goes on from there.
 */
export async function bakeJob(job: Job, working: Working): Promise<Outcome> {
  const document = unlabelled(job.document);
  const laid = await resultNamed(nameOf(job.document, 'unwrap'));
  if (!laid)
    throw new InputError('job/inputs', 'The layout this bake stands on is no longer stored; make it again and queue the bake anew.');
  const meshes = Object.fromEntries(await Promise.all(blobsOf(document).map(async (name) => [name, await readBlob(name)] as const)));
  const ask: LeadAsk = { role: 'lead', document, laid: await readBlob(laid.blobs.parts), meshes, cancel: working.cancel };
  const lead = new Lead(ask, working, (text) => labelledText(text, job.document));
  let checkpoint: Checkpoint | null = null;
  try {
    const { bake, texels } = await lead.prepared;
    const opened = await Checkpoint.open(job.id, job.resultName, texels);
    checkpoint = opened.checkpoint;
    const counts = noCounts(bake.prepared.pairs.length);
    for (const d of opened.done) addCounts(counts, d.counts);
    const finished = new Set(opened.done.map((d) => d.band));
    const bands = Math.ceil(texels.size / BAND);
    const left = Array.from({ length: bands }, (_, b) => b).filter((b) => !finished.has(b));
    let done = finished.size;
    const tell = () => working.told(PREPARED + (CAST - PREPARED) * (done / bands), 'casting rays');
    tell();
    await castBands(left, { role: 'bands', lane: 0, prepared: bake.prepared, texels }, working, async (answer) => {
      addCounts(counts, answer.counts);
      await checkpoint?.keep(answer.band, answer.counts);
      done++;
      tell();
    });
    const result = await lead.finish({ counts, seconds: working.seconds() });
    await keep(job, result);
    await checkpoint.close();
    await forget(job.id);
    return { trial: bakeTrial(job.document, result.figures), seconds: working.seconds(), thumbnail: null };
  } catch (error) {
    await checkpoint?.close();
    // A bake that is to go on later keeps what it has done.
    if (!working.paused()) await forget(job.id);
    if (isFull(error))
      throw new InputError('job/space', 'The disk is full; nothing of this bake is kept. Free some space and queue it again.');
    throw error;
  } finally {
    lead.end();
  }
}

const isFull = (error: unknown): boolean => (error as NodeJS.ErrnoException | null)?.code === 'ENOSPC';

async function keep(job: Job, { figures, files }: BakeResult): Promise<void> {
  const blobs: Record<string, string> = {};
  for (const [name, { bytes, kind }] of Object.entries(bakeFiles(files))) blobs[name] = await keepBlob(bytes, kind);
  await keepResult({
    name: job.resultName,
    stage: 'bake',
    inputs: inputsOf(job.document, 'bake').map((kind) => kind && nameOf(job.document, kind)),
    figures,
    blobs,
  });
}

/** A promise and what settles it. */
function settled<T>(): { promise: Promise<T>; resolve(value: T): void; reject(error: Error): void } {
  let [resolve, reject]: [(value: T) => void, (error: Error) => void] = [() => {}, () => {}];
  const promise = new Promise<T>((yes, no) => {
    resolve = yes;
    reject = no;
  });
  return { promise, resolve, reject };
}

/** The thread that prepares and finishes. */
class Lead {
  private readonly worker: Worker;
  readonly prepared: Promise<Extract<LeadAnswer, { type: 'prepared' }>>;
  private readonly finished: Promise<BakeResult>;
  private over = false;

  /** @param named puts the names of the day in place of the marks that the document has */
  constructor(ask: LeadAsk, working: Working, named: (text: string) => string) {
    this.worker = baking.thread(ask);
    const made = settled<Extract<LeadAnswer, { type: 'prepared' }>>();
    const result = settled<BakeResult>();
    this.prepared = made.promise;
    this.finished = result.promise;
    // Whoever waits hears of it; nobody has to.
    made.promise.catch(() => {});
    result.promise.catch(() => {});
    const fail = (error: Error) => {
      made.reject(error);
      result.reject(error);
    };
    let ready = false;
    this.worker.on('message', (m: LeadAnswer) => {
      if (m.type === 'progress') working.told(ready ? CAST + (1 - CAST) * m.share : PREPARED * m.share, named(m.words));
      else if (m.type === 'prepared') {
        ready = true;
        made.resolve(m);
      } else if (m.type === 'finished') result.resolve(m.result);
      else fail(m.stopped ? new Stopped() : new InputError('job/bake', named(m.failed)));
    });
    this.worker.once('error', fail);
    this.worker.once(
      'exit',
      () => !this.over && fail(new InputError('job/thread', 'The thread that baked it ended; put it in the queue again.')),
    );
  }

  finish(what: { counts: ReturnType<typeof noCounts>; seconds: number }): Promise<BakeResult> {
    this.worker.postMessage(what);
    return this.finished;
  }

  end(): void {
    this.over = true;
    void this.worker.terminate();
  }
}

/** Hands bands to threads until none is left. A band whose thread ended is given to another one once. */
async function castBands(
  left: number[],
  about: BandsAsk,
  working: Working,
  finished: (answer: BandAnswer) => Promise<void>,
): Promise<void> {
  const tries = new Map<number, number>();
  let given = false;
  const one = async (lane: number): Promise<void> => {
    let worker: Worker | null = null;
    try {
      for (let band = left.shift(); band !== undefined; band = left.shift()) {
        if (working.stopped()) throw new Stopped();
        // Another one failed: what is left won’t be needed.
        if (given) return;
        worker ??= baking.thread({ ...about, lane });
        try {
          await finished(await cast(worker, band));
        } catch (error) {
          if (!(error instanceof ThreadEnded)) throw error;
          worker = null;
          const tried = (tries.get(band) ?? 0) + 1;
          if (tried >= TRIES)
            throw new InputError(
              'job/thread',
              'Two threads ended over the same rows of the map; it needs less memory: fewer maps, or a smaller size.',
            );
          tries.set(band, tried);
          left.unshift(band);
        }
      }
    } catch (error) {
      given = true;
      throw error;
    } finally {
      void worker?.terminate();
    }
  };
  const all = await Promise.allSettled(Array.from({ length: Math.min(baking.threads(), Math.max(1, left.length)) }, (_, i) => one(i + 1)));
  const failed = all.find((r) => r.status === 'rejected');
  if (failed) throw failed.reason;
}

class ThreadEnded extends Error {}

function cast(worker: Worker, band: number): Promise<BandAnswer> {
  return new Promise((resolve, reject) => {
    const done = (settle: () => void) => {
      worker.off('message', answered).off('error', ended).off('exit', ended);
      settle();
    };
    const answered = (answer: BandAnswer) => done(() => resolve(answer));
    const ended = () => done(() => reject(new ThreadEnded()));
    worker.on('message', answered).on('error', ended).on('exit', ended);
    worker.postMessage(band);
  });
}
