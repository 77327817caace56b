import { fileURLToPath } from 'node:url';
import { Worker } from 'node:worker_threads';
import type { Pass } from '@wellmorph/core/render/film';
import type { Scene } from '@wellmorph/core/render/scene';
import type { Crew, Tracer } from '@wellmorph/core/render/schedule';
import { build } from 'esbuild';

/** Threads that trace tiles. The scene lies in shared memory; each thread only gets to see it. */
export async function threadCrew(scene: Scene, size: number): Promise<Crew> {
  const built = await build({
    entryPoints: [fileURLToPath(new URL('./tiles.ts', import.meta.url))],
    bundle: true,
    platform: 'node',
    format: 'cjs',
    write: false,
    logLevel: 'silent',
  });
  const code = built.outputFiles[0].text;
  return { size, hire: () => hand(new Worker(code, { eval: true, workerData: scene })) };
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
