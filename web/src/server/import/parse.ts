import { Worker } from 'node:worker_threads';
import { InputError } from '@wellmorph/core/errors';
import type { Model } from '@wellmorph/core/io/model';
import { decodeMesh } from '@wellmorph/core/mesh/codec';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import type { ParseRequest } from './parse.worker';

/** How long reading one file may take, ms. */
const TIME_LIMIT = 60_000;

/** The thread that reads. Replaceable, for where sources are not bundled. */
export const threads = {
  reader: (): Worker => new Worker(new URL('./parse.worker.ts', import.meta.url), { resourceLimits: { maxOldGenerationSizeMb: 3000 } }),
};

/** An asset file, read whole: its document, and the bytes of the meshes and pictures it refers to. */
export interface ParsedAsset {
  document: AssetDocument;
  notes: string[];
  meshes: Uint8Array[];
  pictures: Uint8Array[];
  /** Textures and files with exact surfaces, as they came. */
  kept: Uint8Array[];
}
interface Limits {
  /** How long it may take. */
  milliseconds: number;
  /** What reads it. */
  reader(): Worker;
  /** Ends it at once: nobody waits for it any more. */
  signal?: AbortSignal;
}
type SentModel = Omit<Model, 'parts'> & { parts: (Omit<Model['parts'][number], 'mesh'> & { mesh: Uint8Array })[] };
type Answer = { ok: true; model: SentModel } | { ok: true; asset: ParsedAsset } | { ok: false; code: string; message: string };

/**
 * Reads an uploaded model in a thread of its own, with a time limit and a memory limit.
 *
 * @throws InputError in one sentence; the thread is gone then
 */
export async function parseUpload(request: ParseRequest, limits: Partial<Limits> = {}): Promise<Model> {
  const answer = await read(request, limits);
  if (!('model' in answer)) throw new InputError('import/kind', `“${request.fileName}” is no model.`);
  return { ...answer.model, parts: answer.model.parts.map((p) => ({ ...p, mesh: decodeMesh(p.mesh) })) };
}

/** Reads an uploaded asset file, in a thread of its own as well. @throws InputError in one sentence */
export async function parseAsset(request: ParseRequest, limits: Partial<Limits> = {}): Promise<ParsedAsset> {
  const answer = await read(request, limits);
  if (!('asset' in answer)) throw new InputError('import/kind', `“${request.fileName}” is no asset file.`);
  return answer.asset;
}

/** Files read at once; more wait their turn, so that a handful of large ones can’t take the machine’s memory. */
const AT_ONCE = 2;
const home = globalThis as { wellmorphReading?: { now: number; waiting: (() => void)[] } };

async function read(request: ParseRequest, limits: Partial<Limits>): Promise<Exclude<Answer, { ok: false }>> {
  home.wellmorphReading ??= { now: 0, waiting: [] };
  const reading = home.wellmorphReading;
  while (reading.now >= AT_ONCE) await new Promise<void>((go) => reading.waiting.push(go));
  reading.now++;
  try {
    return await readAlone(request, limits);
  } finally {
    reading.now--;
    reading.waiting.shift()?.();
  }
}

/** What is said, to nobody, of an upload that was given up. */
export const stopped = (): InputError => new InputError('import/stopped', 'The upload was stopped; nothing was stored.');

function readAlone(
  request: ParseRequest,
  { milliseconds = TIME_LIMIT, reader: begin = threads.reader, signal }: Partial<Limits>,
): Promise<Exclude<Answer, { ok: false }>> {
  if (signal?.aborted) return Promise.reject(stopped());
  return new Promise((resolve, reject) => {
    const worker = begin();
    const stop = () => end(() => reject(stopped()));
    signal?.addEventListener('abort', stop);
    const end = (work: () => void) => {
      clearTimeout(timer);
      signal?.removeEventListener('abort', stop);
      work();
      void worker.terminate();
    };
    const timer = setTimeout(
      () =>
        end(() =>
          reject(
            new InputError(
              'import/slow',
              `Reading “${request.fileName}” took longer than ${milliseconds / 1000} s and was stopped; nothing was stored.`,
            ),
          ),
        ),
      milliseconds,
    );
    worker.once('message', (answer: Answer) =>
      end(() => (answer.ok ? resolve(answer) : reject(new InputError(answer.code, answer.message)))),
    );
    worker.once('error', (error) =>
      end(() => {
        console.error(error);
        reject(new InputError('import/crash', `“${request.fileName}” could not be read; it needs more memory than one file may take.`));
      }),
    );
    worker.postMessage(request);
  });
}
