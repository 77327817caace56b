import { Worker } from 'node:worker_threads';
import { InputError } from '@wellmorph/core/errors';
import type { Model } from '@wellmorph/core/io/model';
import { decodeMesh } from '@wellmorph/core/mesh/codec';
import type { ParseRequest } from './parse.worker';

/** How long reading one file may take, ms. */
const TIME_LIMIT = 60_000;

const reader = (): Worker =>
  new Worker(new URL('./parse.worker.ts', import.meta.url), { resourceLimits: { maxOldGenerationSizeMb: 3000 } });

/**
 * Reads an uploaded model in a thread of its own, with a time limit and a memory limit.
 *
 * @param limits how long it may take, ms, and what reads it
 * @throws InputError in one sentence; the thread is gone then
 */
export function parseUpload(request: ParseRequest, limits = { milliseconds: TIME_LIMIT, reader }): Promise<Model> {
  return new Promise((resolve, reject) => {
    const worker = limits.reader();
    const timer = setTimeout(() => {
      void worker.terminate();
      reject(
        new InputError(
          'import/slow',
          `Reading “${request.fileName}” took longer than ${limits.milliseconds / 1000} s and was stopped; nothing was stored.`,
        ),
      );
    }, limits.milliseconds);
    const end = (work: () => void) => {
      clearTimeout(timer);
      work();
      void worker.terminate();
    };
    worker.once(
      'message',
      (
        answer:
          | { ok: true; model: Omit<Model, 'parts'> & { parts: (Omit<Model['parts'][number], 'mesh'> & { mesh: Uint8Array })[] } }
          | { ok: false; code: string; message: string },
      ) =>
        end(() => {
          if (answer.ok) resolve({ ...answer.model, parts: answer.model.parts.map((p) => ({ ...p, mesh: decodeMesh(p.mesh) })) });
          else reject(new InputError(answer.code, answer.message));
        }),
    );
    worker.once('error', () =>
      end(() =>
        reject(new InputError('import/crash', `“${request.fileName}” could not be read; it needs more memory than one file may take.`)),
      ),
    );
    worker.postMessage(request);
  });
}
