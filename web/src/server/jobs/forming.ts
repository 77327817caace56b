import { Worker } from 'node:worker_threads';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { nameOf } from '@wellmorph/core/pipeline/results';
import { artworksOf, blobsOf } from '@wellmorph/core/pipeline/stored';
import { keepBlob, readBlob } from '../blobs/store';
import { assetState, listAssets, setThumbnail } from '../db/assets';
import { keepResult, resultNamed, resultsNamed } from '../db/results';
import { publish } from '../events';
import type { FormAnswer, FormAsk } from './form.worker';

/** What is being formed: `now`, or once those before it are. */
export type Forming = 'now' | 'waits';

/** Kept on globalThis, so that every route's copy of this module sees the same. */
const home = globalThis as { wellmorphForming?: { states: Map<string, Forming>; going: Promise<void> | null } };
const forming = () => {
  home.wellmorphForming ??= { states: new Map(), going: null };
  return home.wellmorphForming;
};

/** How far the pieces are that the server forms by itself; the others are not in it. */
export const formingNow = (): ReadonlyMap<string, Forming> => forming().states;

/** The thread that forms. Replaceable, for where sources are not bundled. */
export const forge = { thread: (): Worker => new Worker(new URL('./form.worker.ts', import.meta.url)) };

/** Assets that have parts, and no form under the name their document gives it now. */
async function unformed() {
  const made = (await listAssets()).filter((a) => a.document.parts.length > 0);
  const kept = new Set((await resultsNamed(made.map((a) => nameOf(a.document, 'form')))).map((r) => r.name));
  return made.filter((a) => !kept.has(nameOf(a.document, 'form')));
}

/**
 * Forms every asset that has never been formed as it is, one after the other, off the thread that answers: those of a new demo, and all
 * of them once forming itself has changed. A piece that somebody forms or changes in the meantime is left to them.
 */
export function formTheUnformed(): Promise<void> {
  const state = forming();
  state.going ??= formAll(state.states)
    .catch((error) => console.error(error))
    .finally(() => {
      state.states.clear();
      state.going = null;
      publish({ kind: 'assets' });
    });
  return state.going;
}

async function formAll(states: Map<string, Forming>): Promise<void> {
  const list = await unformed();
  if (list.length === 0) return;
  for (const { id } of list) states.set(id, 'waits');
  let thread = forge.thread();
  try {
    for (const { id } of list) {
      states.set(id, 'now');
      publish({ kind: 'assets' });
      try {
        await formOne(thread, id);
      } catch (error) {
        console.error(error);
        await thread.terminate();
        thread = forge.thread();
      }
      states.delete(id);
    }
  } finally {
    await thread.terminate();
  }
}

/** The document as it is by now; null when the asset has gone. */
const documentOf = (id: string): Promise<AssetDocument | null> =>
  assetState(id).then(
    (asset) => asset.document,
    () => null,
  );

async function formOne(thread: Worker, id: string): Promise<void> {
  const document = await documentOf(id);
  if (!document || (await resultNamed(nameOf(document, 'form')))) return;
  const read = async (names: string[]) =>
    Object.fromEntries(await Promise.all(names.map(async (name) => [name, await readBlob(name)] as const)));
  const answer = await asked(thread, {
    document,
    meshes: await read(blobsOf(document)),
    artworks: await read(artworksOf(document)).catch(() => ({})),
  });
  if ('failed' in answer) return console.error(`“${document.name}” could not be formed in the background: ${answer.failed}`);
  const { results, files, thumbnail } = answer.whole;
  for (const { bytes, kind } of files.values()) await keepBlob(bytes, kind);
  for (const { milliseconds: _, ...result } of results) await keepResult(result);
  const still = await assetState(id).catch(() => null);
  if (still?.thumbnail === null && nameOf(still.document, 'form') === nameOf(document, 'form'))
    await setThumbnail(id, await keepBlob(thumbnail, 'png'));
}

function asked(thread: Worker, ask: FormAsk): Promise<FormAnswer> {
  return new Promise((resolve, reject) => {
    const done = (settle: () => void) => {
      thread.off('message', answered).off('error', failed).off('exit', ended);
      settle();
    };
    const answered = (answer: FormAnswer) => done(() => resolve(answer));
    const failed = (error: unknown) => done(() => reject(error));
    const ended = () => done(() => reject(new Error('The thread that forms ended.')));
    thread.on('message', answered).on('error', failed).on('exit', ended);
    thread.postMessage(ask);
  });
}
