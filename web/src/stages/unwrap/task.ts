import { unwrapTrial } from '@wellmorph/core/pipeline/trials';
import type { LayoutFigures } from '@wellmorph/core/uv/measure';
import type { StageTask } from '@/session/run-stage';

/** Seams, islands, one tile. */
export const unwrapTask: StageTask<'unwrap'> = {
  async make(making) {
    const { document, blobs } = making;
    const low = await blobs.get(making.input('form').blobs.parts);
    const made = await making.work('unwrap', { document, low });
    return {
      figures: made.figures,
      files: {
        parts: { bytes: made.parts, kind: 'parts' },
        png: { bytes: made.png, kind: 'png' },
        svg: { bytes: made.svg, kind: 'svg' },
      },
      shown: { parts: made.parts, gpu: made.gpu, islands: made.islands, second: made.second },
      // While islands are moved by hand each step is a layout; what is kept of them is what it ends with.
      trial: document.unwrap.places?.length ? undefined : unwrapTrial(document, made.figures),
    };
  },
  async view({ name, figures, blobs }, tools, shown) {
    const parts = shown?.parts ?? (await tools.blobs.get(blobs.parts));
    const drawn =
      shown?.gpu && shown.islands && shown.second
        ? { gpu: shown.gpu, islands: shown.islands, second: shown.second }
        : await tools.pool.run('show', { parts });
    return { name, parts, ...drawn, figures: figures as LayoutFigures, png: blobs.png, svg: blobs.svg };
  },
};
