import { Worker } from 'node:worker_threads';
import { LANES } from '@wellmorph/core/rays/kernel/lanes';
import type { Pass } from '@wellmorph/core/render/film';
import type { Scene } from '@wellmorph/core/render/scene';
import type { Crew, Tracer } from '@wellmorph/core/render/schedule';

/** Threads that trace tiles. The scene lies in shared memory; each thread only gets to see it. */
export function threadCrew(scene: Scene, size: number): Crew {
  // Built beside this one (`build.mjs`).
  const code = new URL('./tiles.mjs', import.meta.url);
  let hired = 0;
  // Lanes in turn: a thread that died may still be writing in its own.
  return { size, hire: () => hand(new Worker(code, { workerData: { scene, lane: 1 + (hired++ % (LANES - 1)) } })) };
}

function hand(worker: Worker): Tracer {
  type Traced = Awaited<ReturnType<Tracer['trace']>>;
  return {
    trace: (pass: Pass) =>
      new Promise<Traced>((ok, no) => {
        const done = () => {
          worker.off('message', good);
          worker.off('error', bad);
          worker.off('exit', gone);
        };
        const good = (traced: Traced) => {
          done();
          ok(traced);
        };
        const bad = (error: unknown) => {
          done();
          no(error);
        };
        const gone = () => bad(new Error('the thread ended'));
        worker.on('message', good).on('error', bad).on('exit', gone);
        worker.postMessage(pass);
      }),
    dismiss: () => void worker.terminate(),
  };
}
