import { CancelledError } from '@wellmorph/core/errors';
import type { RenderFigures } from '@wellmorph/core/pipeline/render';
import { resultHash } from '@wellmorph/core/pipeline/results';
import { type Development, emptyFilm, type Film } from '@wellmorph/core/render/film';
import type { Measured } from '@wellmorph/core/render/forecast';
import type { Scene } from '@wellmorph/core/render/scene';
import { type Crew, traceFilm } from '@wellmorph/core/render/schedule';
import { create } from 'zustand';
import { putBlob, send } from '@/sheet/api';
import { addTrial, job } from '@/sheet/jobs';
import { now, set } from '@/sheet/state';
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
  t: Tracing,
): Promise<{ film: Film; development: Development; measured: Measured[]; rays: number; seconds: number } | null> {
  const { document } = now();
  const parts = await partsToSee();
  if (!document || !parts) return null;
  const started = clock();
  t.report?.(0, 'building the scene');
  // Lens and light are the full picture's, however small this one is.
  const { scene, solved } = await pool.run('scene', { document, parts, set: await setToSee() }, undefined, t.cancel);
  const film = emptyFilm(t.width, t.height, shared);
  const growing: Growing = {
    hash: resultHash(document, 'render'),
    preview: t.preview,
    width: t.width,
    height: t.height,
    rgba: null,
    measured: [],
    done: false,
  };
  const put = (change: Partial<Growing>) => {
    Object.assign(growing, change);
    show(t.preview ? { preview: { ...growing } } : { growing: { ...growing } });
  };
  put({});
  const development = solved.development;
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
  return { film, development, ...traced };
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
  const k = PREVIEW_PX / Math.max(document.shot.widthPx, document.shot.heightPx);
  try {
    await trace({
      width: Math.max(16, Math.round(document.shot.widthPx * k)),
      height: Math.max(16, Math.round(document.shot.heightPx * k)),
      samples: PREVIEW_SAMPLES,
      seed: document.render.seed,
      cancel,
      preview: true,
    });
  } catch {
    // Another preview took its place, or the piece can't be lit yet: the check beside it says which.
  }
}
export function stopPreview(): void {
  if (previewing) Atomics.store(previewing, 0, 1);
}

/** The picture at its size, kept with its figures as a result and a trial. */
export async function runRender(): Promise<boolean> {
  const { id, document } = now();
  if (!document || !id) return false;
  stopPreview();
  const done = await job('render', async (report, cancel) => {
    const started = performance.now();
    const { shot, render, rig } = document;
    const made = await trace({
      width: shot.widthPx,
      height: shot.heightPx,
      samples: render.until === 'samples' ? render.samples : 65536,
      ...(render.until === 'noise' && { noise: render.noise }),
      seed: render.seed,
      cancel,
      preview: false,
      report: (s, w) => report(0.97 * s, w),
    });
    if (!made) throw new WorkError('render/empty', 'There is nothing to draw yet; form the piece first.');
    report(0.98, 'keeping the picture');
    const { film, development, measured, rays, seconds } = made;
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
