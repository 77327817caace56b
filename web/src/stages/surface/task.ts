import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { unlabelled } from '@wellmorph/core/pipeline/labels';
import { printsOf } from '@wellmorph/core/pipeline/prints';
import type { StoredResult } from '@wellmorph/core/pipeline/results';
import { overAny, sharedBy } from '@wellmorph/core/pipeline/series';
import type { BakedMaps, SurfaceFigures } from '@wellmorph/core/pipeline/surface';
import { surfaceTrial } from '@wellmorph/core/pipeline/trials';
import type { Counts, Over } from '@wellmorph/core/surface/compose';
import { artworkFiles } from '@/session/artwork-files';
import type { BlobCache } from '@/session/blobs';
import type { Made, MadeFile, Making, StageTask } from '@/session/run-stage';
import type { Bytes, Files, Held, SharedSet, Work } from '@/workers/protocol';

/** The bake’s maps that masks are made of. */
export const mapsOf = async (bake: Pick<StoredResult, 'blobs'> | null, blobs: BlobCache): Promise<BakedMaps> => ({
  ...(bake?.blobs.occlusion && { occlusion: await blobs.get(bake.blobs.occlusion) }),
  ...(bake?.blobs.curvature && { curvature: await blobs.get(bake.blobs.curvature) }),
  ...(bake?.blobs.glbNormal && { normal: await blobs.get(bake.blobs.glbNormal) }),
});

const png = (bytes: Uint8Array): MadeFile => ({ bytes: bytes as Bytes, kind: 'png' });

/** Composes strips of a set by as many workers as there are. */
async function composed(making: Making, document: AssetDocument, files: Files, over?: Over): Promise<SharedSet> {
  const laid = await making.blobs.get(making.input('unwrap').blobs.parts);
  const maps = await mapsOf(making.has('bake') ? making.input('bake') : null, making.blobs);
  const job = await making.work('composePrepare', { document, laid, maps, files, ...(over && { over }) }, 0, 0.2);
  const ask = { job, next: new Int32Array(new SharedArrayBuffer(4)) };
  const drawn = await Promise.all(Array.from({ length: making.pool.threads }, () => making.work('composeStrips', ask, 0.2, 0.6)));
  const strips: Counts[] = [];
  for (const { strip, counts } of drawn.flat()) strips[strip] = counts;
  return { job, strips, maps };
}

const filesFor = (documents: readonly AssetDocument[], blobs: BlobCache): Promise<Files> =>
  artworkFiles(
    documents.flatMap((d) => printsOf(d).map((p) => p.artwork)),
    blobs,
  );

/** A finished set as it is kept. */
const made = (making: Making, { figures, files }: Work['composeFinish']['answer']): Made<'surface'> => ({
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
});

/**
 * Makes sets of several looks of a piece that share their ground: that is composed once, by whoever comes first, and each of the others
 * prints what is its own over a copy. What comes of each is the same as when it is made alone.
 */
export function seriesTask(looks: readonly AssetDocument[]): StageTask<'surface'> {
  let shared: Promise<{ held: Held<SharedSet>; files: Files }> | null = null;
  const prepare = async (making: Making) => {
    const bare = looks.map(unlabelled);
    const files = await filesFor(bare, making.blobs);
    return { held: making.pool.hold(await composed(making, sharedBy(bare), files, overAny(bare))), files };
  };
  return {
    ...surfaceTask,
    async make(making) {
      const started = performance.now();
      shared ??= prepare(making);
      const { held, files } = await shared;
      const seconds = (performance.now() - started) / 1000;
      const ask = { document: making.document, files, seconds };
      return made(making, await making.pool.run('composeVariant', ask, (s, w) => making.report(0.6 + 0.4 * s, w), making.run.cancel, held));
    },
  };
}

/** The texture set at its size. */
export const surfaceTask: StageTask<'surface'> = {
  async make(making) {
    const started = performance.now();
    const { document } = making;
    const { job, strips, maps } = await composed(making, document, await filesFor([document], making.blobs));
    const seconds = (performance.now() - started) / 1000;
    return made(making, await making.work('composeFinish', { job, strips, maps, seconds }, 0.6, 1));
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
