import type { RenderFigures } from '@wellmorph/core/pipeline/render';
import { MOST_SAMPLES } from '@wellmorph/core/pipeline/render';
import { nameOf } from '@wellmorph/core/pipeline/results';
import { pictureTrial } from '@wellmorph/core/pipeline/trials';
import type { StageTask } from '@/session/run-stage';
import { setOf, trace } from './trace';

/** The picture at its size. It is drawn from what its document names, with its maps or without. */
export const renderTask: StageTask<'render'> = {
  async make(making) {
    const { document, pool, blobs, run } = making;
    const { shot, render } = document;
    making.report(0, 'building the scene');
    const withMaps = making.has('unwrap');
    const parts = await blobs.get(making.input(withMaps ? 'unwrap' : 'form').blobs.parts);
    const of = (kind: 'surface' | 'bake') => (making.has(kind) ? making.input(kind) : null);
    const set = await setOf(document, of('surface'), of('bake'), blobs);
    const { scene, solved, note } = await pool.run('scene', { document, parts, set }, undefined, run.cancel);
    const { development } = solved;
    const { film, measured, rays, seconds } = await trace(
      { scene, development, name: nameOf(document, 'render') },
      {
        width: shot.widthPx,
        height: shot.heightPx,
        samples: render.until === 'samples' ? render.samples : MOST_SAMPLES,
        ...(render.until === 'noise' && { noise: render.noise }),
        seed: render.seed,
        cancel: run.cancel,
        preview: false,
        report: (s, w) => making.report(0.97 * s, note ? `${w}, ${note}` : w),
        put: run.growing,
      },
      pool,
    );
    making.report(0.98, 'keeping the picture');
    const final = await pool.run('develop', { film, development, samples: film.samples, png: true }, undefined, run.cancel);
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
    return {
      figures,
      files: { png: final.png && { bytes: final.png, kind: 'png' } },
      trial: {
        ...pictureTrial(document, figures),
        ...(run.forecastSeconds !== undefined && { forecastSeconds: run.forecastSeconds }),
        picture: 'png',
      },
    };
  },
  view: async ({ name, figures, blobs }) => ({ name, figures: figures as RenderFigures, png: blobs.png }),
};
