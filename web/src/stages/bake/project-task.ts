import { bandsOf } from '@wellmorph/core/gather/bands';
import type { Photo } from '@wellmorph/core/photo/photo';
import { photosTaken } from '@wellmorph/core/pipeline/document';
import { PROJECTED, type ProjectedMap, type ProjectFigures } from '@wellmorph/core/pipeline/project-figures';
import { projectTrial } from '@wellmorph/core/pipeline/trials';
import type { MadeFile, StageTask } from '@/session/run-stage';
import { WorkError } from '@/workers/pool';
import type { Bytes } from '@/workers/protocol';

/**
 * About how long laying photographs on takes, s: unpacking them by their megapixels, drawing and writing by the texels of the set. Measured
 * with one of 48 megapixels and two of 4 on a set of 1024² and 2048².
 */
export const projectSeconds = (photos: readonly Photo[], size: number, threads: number): number =>
  photos.reduce((n, p) => n + 9e-8 * p.widthPx * p.heightPx, 0) + size * size * (6e-7 + (1.5e-6 * photos.length) / Math.max(1, threads));

/** Lays photographs on in as many workers as there are. */
export const projectTask: StageTask<'project'> = {
  async make(making) {
    const { document, blobs, pool, run } = making;
    const started = performance.now();
    const photos = await Promise.all(photosTaken(document).map(async ({ id, blob }) => ({ id, bytes: await blobs.get(blob) })));
    const laid = await blobs.get(making.input('unwrap').blobs.parts);
    const { prepared, projected } = await making.work('projectPrepare', { document, laid, photos }, 0, 0.3);
    const bands = bandsOf(prepared.job.size);
    const list = new Int32Array(new SharedArrayBuffer(4 * bands));
    for (let b = 0; b < bands; b++) list[b] = b;
    const ask = { prepared, projected, bands: list, next: new Int32Array(new SharedArrayBuffer(4)) };
    const drawn = await Promise.all(Array.from({ length: pool.threads }, () => making.work('projectBands', ask, 0.3, 0.85)));
    if (Atomics.load(run.cancel, 0) === 1) throw new WorkError('cancelled', 'Stopped.');
    const counts = drawn
      .flat()
      .reduce((a, { counts: b }) => ({ samples: a.samples + b.samples, lost: a.lost + b.lost }), { samples: 0, lost: 0 });
    const seconds = (performance.now() - started) / 1000;
    const { figures, files } = await making.work('projectFinish', { document, prepared, projected, counts, seconds }, 0.85, 1);
    making.pace.learn(
      'project',
      projectSeconds(photosTaken(document), prepared.job.size, pool.threads),
      (performance.now() - started) / 1000,
    );
    return {
      figures,
      files: Object.fromEntries(PROJECTED.map((m) => [m, { bytes: files[m] as Bytes, kind: 'png' } satisfies MadeFile])),
      trial: { ...projectTrial(run.document, figures), picture: 'baseColour' },
    };
  },
  view: async ({ name, figures, blobs }) => ({
    name,
    figures: figures as ProjectFigures,
    files: blobs as Record<ProjectedMap, string>,
  }),
};
