import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { usedMaterials } from '@wellmorph/core/pipeline/results';
import type { BakedMaps, SurfaceFigures } from '@wellmorph/core/pipeline/surface';
import type { StoredResult } from '@/server/db/results';
import type { BlobCache } from '@/session/blobs';
import type { MadeFile, StageTask } from '@/session/run-stage';
import type { Bytes } from '@/workers/protocol';

/** The bake’s maps that masks are made of. */
export const mapsOf = async (bake: Pick<StoredResult, 'blobs'> | null, blobs: BlobCache): Promise<BakedMaps> => ({
  ...(bake?.blobs.occlusion && { occlusion: await blobs.get(bake.blobs.occlusion) }),
  ...(bake?.blobs.curvature && { curvature: await blobs.get(bake.blobs.curvature) }),
});

const png = (bytes: Uint8Array): MadeFile => ({ bytes: bytes as Bytes, kind: 'png' });

/** The texture set at its size. */
export const surfaceTask: StageTask<'surface'> = {
  async make(making) {
    const { document, blobs } = making;
    const laid = await blobs.get(making.input('unwrap').blobs.parts);
    const maps = await mapsOf(making.has('bake') ? making.input('bake') : null, blobs);
    const { figures, files } = await making.work('compose', { document, laid, maps });
    return {
      figures,
      files: {
        baseColour: png(files.baseColour),
        orm: png(files.orm),
        emissive: files.emissive ? png(files.emissive) : null,
        validity: png(files.validity),
      },
      trial: { ...trialOf(making.run.document, figures), picture: 'baseColour' },
    };
  },
  view: async ({ name, figures, blobs }) => ({
    name,
    figures: figures as SurfaceFigures,
    baseColour: blobs.baseColour,
    orm: blobs.orm,
    emissive: blobs.emissive ?? null,
    validity: blobs.validity,
  }),
};

function trialOf(document: AssetDocument, figures: SurfaceFigures) {
  const used = usedMaterials(document);
  const shares = figures.composed.materials;
  return {
    title:
      used
        .map((m) => m.name)
        .join(', ')
        .slice(0, 100) || 'No materials',
    settings: Object.fromEntries([
      ['size', figures.size],
      ['seed', document.surface.seed],
      ...used.flatMap((m) => [
        [`${m.name}: roughness`, m.roughness],
        [`${m.name}: wear`, m.wear?.share ?? 0],
        [`${m.name}: dirt`, m.dirt?.share ?? 0],
        [`${m.name}: colour`, m.colour.map((c) => Math.round(c * 255)).join(' ')],
      ]),
    ]),
    figures: {
      soundPercent: 100 * figures.validity.sound,
      wornPercent: 100 * mean(shares.map((m) => [m.wearShare, m.texels])),
      dirtyPercent: 100 * mean(shares.map((m) => [m.dirtShare, m.texels])),
    },
  };
}

const mean = (list: [value: number, weight: number][]): number => {
  const weight = list.reduce((s, [, w]) => s + w, 0);
  return weight > 0 ? list.reduce((s, [v, w]) => s + v * w, 0) / weight : 0;
};
