import { addCounts } from '@wellmorph/core/bake/texels';
import { type BakeFigures, bakeFiles } from '@wellmorph/core/pipeline/bake';
import { bakeTrial } from '@wellmorph/core/pipeline/trials';
import type { MadeFile, StageTask } from '@/session/run-stage';

/** Bakes in as many workers as there are: one prepares, all cast, one finishes. */
export const bakeTask: StageTask<'bake'> = {
  async make(making) {
    const { document, pool, blobs } = making;
    const laid = await blobs.get(making.input('unwrap').blobs.parts);
    const started = performance.now();
    const [prepare, cast, finish] = making.pace.parts('bake', [0.15, 0.75, 0.1]);
    const { bake, texels } = await making.work('prepare', { document, laid, meshes: await making.meshes('both') }, ...prepare);
    const prepared = performance.now();
    const next = new Int32Array(new SharedArrayBuffer(4));
    const casting = Array.from({ length: pool.threads }, () => making.work('bands', { prepared: bake.prepared, texels, next }, ...cast));
    const counts = await Promise.all(casting);
    for (const c of counts) addCounts(texels.counts, c);
    const casted = performance.now();
    const seconds = (casted - started) / 1000;
    const made = await making.work('finish', { document, bake, texels, laid, seconds }, ...finish);
    making.pace.learnParts(
      'bake',
      [prepared - started, casted - prepared, performance.now() - casted].map((ms) => ms / 1000),
    );
    making.run.took?.((performance.now() - started) / 1000);
    return {
      figures: made.figures,
      files: bakeFiles(made.files) as Record<string, MadeFile>,
      trial: {
        ...bakeTrial(document, made.figures),
        ...(making.run.forecastSeconds !== undefined && { forecastSeconds: making.run.forecastSeconds }),
      },
    };
  },
  view: async ({ name, figures, blobs }) => ({
    name,
    figures: figures as BakeFigures,
    files: blobs,
  }),
};
