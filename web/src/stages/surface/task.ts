import { printsOf } from '@wellmorph/core/pipeline/prints';
import type { StoredResult } from '@wellmorph/core/pipeline/results';
import type { BakedMaps, SurfaceFigures } from '@wellmorph/core/pipeline/surface';
import { surfaceTrial } from '@wellmorph/core/pipeline/trials';
import type { Counts } from '@wellmorph/core/surface/compose';
import { artworkFiles } from '@/session/artwork-files';
import type { BlobCache } from '@/session/blobs';
import type { MadeFile, StageTask } from '@/session/run-stage';
import type { Bytes } from '@/workers/protocol';

/** The bake’s maps that masks are made of. */
export const mapsOf = async (bake: Pick<StoredResult, 'blobs'> | null, blobs: BlobCache): Promise<BakedMaps> => ({
  ...(bake?.blobs.occlusion && { occlusion: await blobs.get(bake.blobs.occlusion) }),
  ...(bake?.blobs.curvature && { curvature: await blobs.get(bake.blobs.curvature) }),
  ...(bake?.blobs.glbNormal && { normal: await blobs.get(bake.blobs.glbNormal) }),
});

const png = (bytes: Uint8Array): MadeFile => ({ bytes: bytes as Bytes, kind: 'png' });

/** The texture set at its size. */
export const surfaceTask: StageTask<'surface'> = {
  async make(making) {
    const { document, blobs, pool } = making;
    const started = performance.now();
    const laid = await blobs.get(making.input('unwrap').blobs.parts);
    const maps = await mapsOf(making.has('bake') ? making.input('bake') : null, blobs);
    const artworks = await artworkFiles(
      printsOf(document).map((p) => p.artwork),
      blobs,
    );
    const job = await making.work('composePrepare', { document, laid, maps, files: artworks }, 0, 0.2);
    const ask = { job, next: new Int32Array(new SharedArrayBuffer(4)) };
    const drawn = await Promise.all(Array.from({ length: pool.threads }, () => making.work('composeStrips', ask, 0.2, 0.6)));
    const strips: Counts[] = [];
    for (const { strip, counts } of drawn.flat()) strips[strip] = counts;
    const seconds = (performance.now() - started) / 1000;
    const { figures, files } = await making.work('composeFinish', { job, strips, maps, seconds }, 0.6, 1);
    return {
      figures,
      files: {
        baseColour: png(files.baseColour),
        orm: png(files.orm),
        emissive: files.emissive ? png(files.emissive) : null,
        coat: files.coat ? png(files.coat) : null,
        clear: files.clear ? png(files.clear) : null,
        normal: files.normal ? png(files.normal) : null,
        validity: png(files.validity),
      },
      trial: { ...surfaceTrial(making.run.document, figures), picture: 'baseColour' },
    };
  },
  view: async ({ name, figures, blobs }) => ({
    name,
    figures: figures as SurfaceFigures,
    baseColour: blobs.baseColour,
    orm: blobs.orm,
    emissive: blobs.emissive ?? null,
    coat: blobs.coat ?? null,
    clear: blobs.clear ?? null,
    normal: blobs.normal ?? null,
    validity: blobs.validity,
  }),
};
