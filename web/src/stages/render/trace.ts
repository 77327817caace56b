import { CancelledError } from '@wellmorph/core/errors';
import { picturesOfCame } from '@wellmorph/core/pipeline/came';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import type { SetFiles } from '@wellmorph/core/pipeline/render';
import type { StoredResult } from '@wellmorph/core/pipeline/results';
import { type Development, emptyFilm, type Film } from '@wellmorph/core/render/film';
import type { Measured } from '@wellmorph/core/render/forecast';
import type { Scene } from '@wellmorph/core/render/scene';
import { type Crew, traceFilm } from '@wellmorph/core/render/schedule';
import type { BlobCache } from '@/session/blobs';
import type { Growing } from '@/session/state';
import { type Pool, WorkError } from '@/workers/pool';

type Files = Pick<StoredResult, 'blobs'> | null;

/** The textures that a composed set, a bake and files that were brought in give a picture. */
export const setOf = async (document: AssetDocument, surface: Files, bake: Files, blobs: BlobCache): Promise<SetFiles> => ({
  pictures: await picturesOfCame(document, (blob) => blobs.get(blob)),
  ...(await photoOf(document, blobs)),
  ...(surface && { baseColour: await blobs.get(surface.blobs.baseColour), orm: await blobs.get(surface.blobs.orm) }),
  ...(surface?.blobs.coat && { coat: await blobs.get(surface.blobs.coat) }),
  ...(surface?.blobs.clear && { clear: await blobs.get(surface.blobs.clear) }),
  // What stands out of the set is laid over what was baked already.
  ...((surface?.blobs.normal ?? bake?.blobs.glbNormal) && {
    normal: await blobs.get((surface?.blobs.normal ?? bake?.blobs.glbNormal) as string),
  }),
});

/** The photograph that the shot stands in. */
export async function photoOf(document: AssetDocument, blobs: BlobCache): Promise<Pick<SetFiles, 'photo'>> {
  const photo = document.photos?.find((p) => p.id === document.shot.photo);
  return photo ? { photo: await blobs.get(photo.blob) } : {};
}

export interface Staged {
  scene: Scene;
  development: Development;
  /** What a picture of it is: the name of the render result it would be. */
  name: string;
}

export interface Tracing {
  width: number;
  height: number;
  samples: number;
  noise?: number;
  seed: number;
  cancel: Int32Array;
  preview: boolean;
  report?(share: number, words: string): void;
  /** Shows the picture as it grows. */
  put?(growing: Growing): void;
}

/** Workers of the page as tracers; one that dies is replaced by the pool. */
function crew(scene: Scene, cancel: Int32Array, pool: Pool): Crew {
  const held = pool.hold(scene);
  return {
    size: pool.threads,
    hire: () => ({
      async trace(pass) {
        try {
          return await pool.run('tile', { pass }, undefined, cancel, held);
        } catch (error) {
          if (error instanceof WorkError && error.code === 'cancelled') throw new CancelledError();
          throw error;
        }
      },
      dismiss() {},
    }),
  };
}

const shared = (n: number) => new SharedArrayBuffer(n);
const clock = () => performance.now() / 1000;

/** Traces a picture in all workers, showing it as it grows. */
export async function trace(
  { scene, development, name }: Staged,
  t: Tracing,
  pool: Pool,
): Promise<{ film: Film; measured: Measured[]; rays: number; seconds: number }> {
  const started = clock();
  const film = emptyFilm(t.width, t.height, shared);
  const growing: Growing = { name, preview: t.preview, width: t.width, height: t.height, rgba: null, measured: [], done: false };
  const put = (change: Partial<Growing>) => {
    Object.assign(growing, change);
    // Until there is something of its own to see, what was there stays.
    if (growing.rgba) t.put?.({ ...growing });
  };
  const traced = await traceFilm(film, crew(scene, t.cancel, pool), {
    samples: t.samples,
    seed: t.seed,
    noise: t.noise,
    development,
    clock: () => clock() - started,
    task: { progress: (s, w) => t.report?.(s, w ?? ''), cancelled: () => Atomics.load(t.cancel, 0) === 1 },
    async measure(f, samples) {
      const made = await pool.run('develop', { film: f, development, samples, png: false }, undefined, t.cancel);
      put({ rgba: made.rgba });
      return made.noise;
    },
    onPass: (_, measured) => put({ measured: [...measured] }),
  });
  put({ done: true });
  return { film, ...traced };
}
