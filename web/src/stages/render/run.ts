import { CancelledError } from '@wellmorph/core/errors';
import type { RenderFigures } from '@wellmorph/core/pipeline/render';
import { resultHash } from '@wellmorph/core/pipeline/results';
import { type Development, emptyFilm, type Film } from '@wellmorph/core/render/film';
import type { Measured } from '@wellmorph/core/render/forecast';
import type { Scene } from '@wellmorph/core/render/scene';
import { type Crew, traceFilm } from '@wellmorph/core/render/schedule';
import { create } from 'zustand';
import type { StoredResult } from '@/server/db/results';
import type { Trial } from '@/server/db/trials';
import { get, putBlob, send } from '@/sheet/api';
import { pump } from '@/sheet/document';
import { currentForm } from '@/sheet/forming';
import { addTrial, job } from '@/sheet/jobs';
import { notify, now, sentence, set } from '@/sheet/state';
import { pool, WorkError } from '@/workers/pool';
import { partsToSee, setToSee } from '../light/run';

/** A picture that grows: the newest development of it, and how it stands. */
export interface Growing {
  /** What it is a picture of: the hash of the render result it would be. */
  hash: string;
  preview: boolean;
  width: number;
  height: number;
  rgba: Uint8ClampedArray<ArrayBuffer> | null;
  measured: Measured[];
  done: boolean;
}
export const usePicture = create<{ growing: Growing | null; preview: Growing | null }>(() => ({ growing: null, preview: null }));
const show = usePicture.setState;

const shared = (n: number) => new SharedArrayBuffer(n);
const clock = () => performance.now() / 1000;

/** Workers of the page as tracers; one that dies is replaced by the pool. */
function crew(scene: Scene, cancel: Int32Array, size: number): Crew {
  return {
    size,
    hire: () => ({
      async trace(pass) {
        try {
          return await pool.run('tile', { scene, pass }, undefined, cancel);
        } catch (error) {
          if (error instanceof WorkError && error.code === 'cancelled') throw new CancelledError();
          throw error;
        }
      },
      dismiss() {},
    }),
  };
}

interface Staged {
  scene: Scene;
  development: Development;
  /** What a picture of it is: the hash of the render result it would be. */
  hash: string;
}

/** The scene as it is now, for one picture or several of different sizes. Lens and light are the full picture's. */
async function stage(cancel: Int32Array): Promise<Staged | null> {
  const { document } = now();
  const parts = await partsToSee();
  if (!document || !parts) return null;
  const { scene, solved } = await pool.run('scene', { document, parts, set: await setToSee() }, undefined, cancel);
  return { scene, development: solved.development, hash: resultHash(document, 'render') };
}

interface Tracing {
  width: number;
  height: number;
  samples: number;
  noise?: number;
  seed: number;
  cancel: Int32Array;
  preview: boolean;
  report?(share: number, words: string): void;
}

async function trace(
  { scene, development, hash }: Staged,
  t: Tracing,
): Promise<{ film: Film; measured: Measured[]; rays: number; seconds: number }> {
  const started = clock();
  const film = emptyFilm(t.width, t.height, shared);
  const growing: Growing = { hash, preview: t.preview, width: t.width, height: t.height, rgba: null, measured: [], done: false };
  const put = (change: Partial<Growing>) => {
    Object.assign(growing, change);
    // Until there is something of its own to see, what was there stays.
    if (growing.rgba) show(t.preview ? { preview: { ...growing } } : { growing: { ...growing } });
  };
  const traced = await traceFilm(film, crew(scene, t.cancel, pool.threads), {
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

/** Samples of the preview: enough to see and to forecast by. */
const PREVIEW_SAMPLES = 16;
/** Longer side of the preview, px. */
const PREVIEW_PX = 320;

let previewing: Int32Array | null = null;
/** A small picture at once, for looking and for the forecast. A newer one stops the older. */
export async function runPreview(): Promise<void> {
  if (previewing) Atomics.store(previewing, 0, 1);
  const cancel = new Int32Array(new SharedArrayBuffer(4));
  previewing = cancel;
  const { document } = now();
  if (!document) return;
  const sized = (px: number) => {
    const k = px / Math.max(document.shot.widthPx, document.shot.heightPx);
    const side = (n: number) => Math.max(16, Math.round(n * k));
    return { width: side(document.shot.widthPx), height: side(document.shot.heightPx) };
  };
  try {
    const staged = await stage(cancel);
    if (!staged) return;
    const common = { seed: document.render.seed, cancel, preview: true };
    // A glimpse first, then one to judge and to forecast by.
    await trace(staged, { ...sized(PREVIEW_PX / 2), samples: 2, ...common });
    await trace(staged, { ...sized(PREVIEW_PX), samples: PREVIEW_SAMPLES, ...common });
  } catch {
    // Another preview took its place, or the piece can't be lit yet: the check beside it says which.
  }
}
export function stopPreview(): void {
  if (previewing) Atomics.store(previewing, 0, 1);
}

/** Puts the picture into the server's queue, as everything is stored now. */
export async function queueRender(forecastSeconds: number | null): Promise<boolean> {
  await pump();
  await currentForm();
  const { id, version } = now();
  try {
    await send('POST', `/api/assets/${id}/jobs`, {
      baseVersion: version,
      ...(forecastSeconds && { forecastSeconds: Math.round(forecastSeconds) }),
    });
    notify('Put in the queue; it is drawn on the server, also when this page is closed.');
    return true;
  } catch (error) {
    notify(sentence(error), 'error');
    return false;
  }
}

/** Takes the newest stored picture and trials, as after a queued one has been drawn. */
export async function takeStored(): Promise<void> {
  const { id } = now();
  const opened = await get<{ results: StoredResult[]; trials: Trial[] }>(`/api/assets/${id}`);
  const found = opened.results.find((r) => r.stage === 'render');
  if (now().id === id && found)
    set({ render: { hash: found.hash, figures: found.figures as RenderFigures, png: found.blobs.png }, trials: opened.trials });
}

/** The picture at its size, kept with its figures as a result and a trial. */
export async function runRender(): Promise<boolean> {
  const { id, document } = now();
  if (!document || !id) return false;
  stopPreview();
  const done = await job('render', async (report, cancel) => {
    const started = performance.now();
    const { shot, render, rig } = document;
    report(0, 'building the scene');
    const staged = await stage(cancel);
    if (!staged) throw new WorkError('render/empty', 'There is nothing to draw yet; form the piece first.');
    show({ growing: null });
    const { development } = staged;
    const made = await trace(staged, {
      width: shot.widthPx,
      height: shot.heightPx,
      samples: render.until === 'samples' ? render.samples : 65536,
      ...(render.until === 'noise' && { noise: render.noise }),
      seed: render.seed,
      cancel,
      preview: false,
      report: (s, w) => report(0.97 * s, w),
    });
    report(0.98, 'keeping the picture');
    const { film, measured, rays, seconds } = made;
    const final = await pool.run('develop', { film, development, samples: film.samples, png: true }, undefined, cancel);
    const png = await putBlob(final.png as Uint8Array<ArrayBuffer>, 'png');
    const figures: RenderFigures = {
      width: film.width,
      height: film.height,
      samples: 2 * film.samples,
      noise: final.noise,
      seconds,
      raysPerSample: rays / Math.max(1, 2 * film.samples * film.width * film.height),
      clippedShare: final.clippedShare,
      heldBackShare: final.heldBackShare,
      measured,
    };
    const hash = resultHash(document, 'render');
    await send('PUT', `/api/assets/${id}/results/render`, { hash, figures, blobs: { png } });
    if (now().id === id) set({ render: { hash, figures, png } });
    await addTrial(
      {
        stage: 'render',
        title: `${film.width} × ${film.height}, ${2 * film.samples} samples`,
        settings: {
          samples: 2 * film.samples,
          seed: render.seed,
          width: film.width,
          height: film.height,
          tone: shot.tone,
          azimuth: shot.azimuth,
          elevation: shot.elevation,
          lens: shot.lensMm,
          background: rig.background,
          surround: rig.surround,
          ratio: `${rig.lamps.key.ratio} : ${rig.lamps.fill.ratio} : ${rig.lamps.rim.ratio}`,
          materials: resultHash(document, 'surface').slice(0, 8),
        },
        figures: { noisePercent: 100 * figures.noise, samples: figures.samples, clippedPercent: 100 * figures.clippedShare },
        milliseconds: Math.round(performance.now() - started),
      },
      png,
    );
    return true;
  });
  return done === true;
}
