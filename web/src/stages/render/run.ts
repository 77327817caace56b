import type { RenderFigures } from '@wellmorph/core/pipeline/render';
import { nameOf } from '@wellmorph/core/pipeline/results';
import type { AssetSession } from '@/session/session';
import { isFresh } from '@/session/state';
import { partsToSee } from '../light/run';
import { photoOf, setOf, trace } from './trace';

/** Samples of the preview: enough to see and to forecast by. */
const PREVIEW_SAMPLES = 16;
/** Longer side of the preview, px. */
const PREVIEW_PX = 320;

const previews = new WeakMap<AssetSession, Int32Array>();

/** The textures a glimpse is drawn with: those that are of the asset as it is, if it is to be drawn with any. */
async function setToSee(session: AssetSession) {
  const { document, unwrap, surface, bake } = session.state;
  if (!document) return {};
  if (!document.render.maps || !isFresh(document, unwrap, 'unwrap')) return photoOf(document, session.bench.blobs);
  const files = (view: object | null, fresh: boolean) =>
    view && fresh
      ? { blobs: Object.fromEntries(Object.entries(view).filter((e): e is [string, string] => typeof e[1] === 'string')) }
      : null;
  return setOf(
    document,
    files(surface, isFresh(document, surface, 'surface')),
    files(bake, isFresh(document, bake, 'bake')),
    session.bench.blobs,
  );
}

/** A small picture at once, for looking and for the forecast; never kept. A newer one stops the older. */
export async function runPreview(session: AssetSession): Promise<void> {
  stopPreview(session);
  const cancel = new Int32Array(new SharedArrayBuffer(4));
  previews.set(session, cancel);
  const { document } = session;
  if (!document) return;
  const { pool } = session.bench;
  const sized = (px: number) => {
    const k = px / Math.max(document.shot.widthPx, document.shot.heightPx);
    const side = (n: number) => Math.max(16, Math.round(n * k));
    return { width: side(document.shot.widthPx), height: side(document.shot.heightPx) };
  };
  try {
    const parts = await partsToSee(session);
    if (!parts || session.document !== document) return;
    const { scene, solved } = await pool.run('scene', { document, parts, set: await setToSee(session) }, undefined, cancel);
    const staged = { scene, development: solved.development, name: nameOf(document, 'render') };
    const common = {
      seed: document.render.seed,
      cancel,
      preview: true,
      put: (preview: typeof session.state.preview) => session.set({ preview }),
    };
    // A glimpse first, then one to judge and to forecast by.
    await trace(staged, { ...sized(PREVIEW_PX / 2), samples: 2, ...common }, pool);
    await trace(staged, { ...sized(PREVIEW_PX), samples: PREVIEW_SAMPLES, ...common }, pool);
  } catch {
    // Another preview took its place, or the piece can't be lit yet: the check beside it says which.
  }
}
export function stopPreview(session: AssetSession): void {
  const going = previews.get(session);
  if (going) Atomics.store(going, 0, 1);
}

/** The picture at its size, kept with its figures as a result and a trial. */
export async function runRender(session: AssetSession, forecastSeconds?: number): Promise<boolean> {
  stopPreview(session);
  const done = await session.job('render', async (run) => {
    session.set({ growing: null });
    const before = session.state.render?.name;
    const made = await session.stage(
      { ...run, growing: (growing) => session.set({ growing }), ...(forecastSeconds !== undefined && { forecastSeconds }) },
      'render',
    );
    const { seconds } = made.figures as RenderFigures;
    if (forecastSeconds && made.name !== before) session.bench.pace.learn('render', forecastSeconds, seconds);
    return made;
  });
  return done !== null;
}
